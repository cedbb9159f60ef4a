"""The demo's application with the floor beside it, for the load of many people."""

from web.settings.demo import *  # noqa: F403

ROOT_URLCONF = "benchmarks.floor_urls"
