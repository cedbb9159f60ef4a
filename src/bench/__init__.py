"""The web application: a Django project round the core in ``mockup``."""
