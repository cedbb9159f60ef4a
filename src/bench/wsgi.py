"""What the application server calls. Addresses and views are read in here, before workers are forked."""

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

application = get_wsgi_application()
# Django reads the addresses in when the first page is asked for; every worker would then do it by itself.
_addresses = get_resolver().url_patterns
