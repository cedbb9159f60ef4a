"""A benchmark with a database of its own, thrown away afterwards."""

import os
from collections.abc import Callable

from launch.postgres import throw_away_cluster


def on_a_database(measure: Callable[[], int]) -> int:
    """Set Django up on a throw-away PostgreSQL, then measure; returns what that returns."""
    cluster = throw_away_cluster()
    try:
        cluster.start()
        os.environ |= {
            "DATABASE_URL": cluster.url,
            "SECRET_KEY": "only-here",
            "DJANGO_SETTINGS_MODULE": "web.settings.test",
        }
        import django

        django.setup()
        return measure()
    finally:
        cluster.remove()
