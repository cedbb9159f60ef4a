"""The WSGI application. URLs and views are imported here, before workers are forked."""

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

application = get_wsgi_application()
# Django imports the URLs with the first request; every worker would then do it separately.
_addresses = get_resolver().url_patterns
