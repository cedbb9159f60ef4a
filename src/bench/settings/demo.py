"""The demo: loopback only, with a button that signs in to the demo shop."""

from bench.settings.base import *  # noqa: F403
from bench.settings.base import INSTALLED_APPS

DEMO_MODE = True
INSTALLED_APPS = [*INSTALLED_APPS, "bench.demo"]
# The demo answers on loopback only, whatever a network in between may claim.
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
WHITENOISE_USE_FINDERS = True
