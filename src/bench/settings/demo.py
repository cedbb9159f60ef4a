"""The demo: loopback only, with a button that signs in to the demo shop."""

from bench.settings.base import *  # noqa: F403
from bench.settings.base import INSTALLED_APPS, STATIC_ROOT

DEMO_MODE = True
INSTALLED_APPS = [*INSTALLED_APPS, "bench.demo"]
# The demo answers on loopback only, whatever a network in between may claim.
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
# Started by ./mole demo its files are gathered as a shop's are; tests and tools find them where they lie.
WHITENOISE_USE_FINDERS = not STATIC_ROOT
if STATIC_ROOT:
    STORAGES = {
        "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
        "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
    }
