"""The web application: a Django project around the core in ``mockup``."""
