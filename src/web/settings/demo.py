"""The demo: loopback only, with a button that signs in to the demo shop."""

from web.settings.base import *  # noqa: F403
from web.settings.base import INSTALLED_APPS, STATIC_ROOT

DEMO_MODE = True
INSTALLED_APPS = [*INSTALLED_APPS, "web.demo"]
# The demo answers only on loopback, even if a network in between claims otherwise.
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
# Started by ./mole demo, static files are collected as for a shop; tests and tools use them in place.
WHITENOISE_USE_FINDERS = not STATIC_ROOT
if STATIC_ROOT:
    STORAGES = {
        "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
        "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
    }
