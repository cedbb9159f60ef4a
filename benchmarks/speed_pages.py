"""Speed of pages on the server, on the same large build, with a throw-away PostgreSQL."""

import os
import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.timing import median_seconds, report
from launch.postgres import throw_away_cluster


def main() -> None:
    """Make the build, then time each page of it as the test client sees it."""
    cluster = throw_away_cluster()
    try:
        cluster.start()
        os.environ |= {
            "DATABASE_URL": cluster.url,
            "SECRET_KEY": "only-here",
            "DJANGO_SETTINGS_MODULE": "bench.settings.test",
        }
        import django

        django.setup()
        _measure()
    finally:
        cluster.remove()


def _measure() -> None:
    from django.core.management import call_command
    from django.test import Client
    from django.urls import reverse
    from django_scopes import scope

    from bench.builds.models import Entry
    from tests import making_rows

    call_command("migrate", verbosity=0)
    person = making_rows.person()
    build = making_rows.read_build(person, cylinders=12, valves=2, slices=8)
    with scope(shop=person.shop):
        count = Entry.objects.count()
    client = Client()
    client.force_login(person)
    for name in ("verdict", "deck", "stack", "volumes", "quench", "mock-up", "cam", "pushrods", "clay", "block"):
        address = reverse(name, args=[build.pk])
        assert client.get(address).status_code == 200
        report(f"page {name}, {count} readings", median_seconds(lambda a=address: client.get(a)), 0.150)
    stand = reverse("stand")
    report("the stand", median_seconds(lambda: client.get(stand)), 0.150)


if __name__ == "__main__":
    main()
