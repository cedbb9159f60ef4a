"""Speed of pages on the server, on the same large build, with a throw-away PostgreSQL."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.database import on_a_database
from benchmarks.timing import finish, median_seconds, report


def _measure() -> int:
    from django.core.management import call_command
    from django.test import Client
    from django.urls import reverse
    from django_scopes import scope

    from tests import making_rows
    from tests.web import BUILD_PAGES
    from web.builds.models import Entry

    call_command("migrate", verbosity=0)
    person = making_rows.person()
    build = making_rows.read_build(person, cylinders=12, valves=2, slices=8)
    with scope(shop=person.shop):
        count = Entry.objects.count()
    client = Client()
    client.force_login(person)
    for name in BUILD_PAGES:
        address = reverse(name, args=[build.pk])
        assert client.get(address).status_code == 200
        report(f"page {name}, {count} readings", median_seconds(lambda a=address: client.get(a)), 0.150)
    swept = _swept(person)
    for name in ("sweep", "verdict"):
        address = reverse(name, args=[swept.pk])
        assert client.get(address).status_code == 200
        report(
            f"page {name}, 16 valves, 304 indicator readings", median_seconds(lambda a=address: client.get(a)), 0.150
        )
    builds_list = reverse("builds")
    report("the list of builds", median_seconds(lambda: client.get(builds_list)), 0.150)
    return finish()


def _swept(person):
    """Every valve of a four, two intakes and two exhausts each, swept a degree at a time."""
    from mockup.engine.valves import Place, Side
    from mockup.readings.sweep import SweepReading
    from tests import making_rows

    four = making_rows.read_build(person, cylinders=4, valves=2, slices=1)
    places = [Place(cylinder, side, number) for cylinder in range(1, 5) for side in Side for number in (1, 2)]
    readings = [
        SweepReading(
            key="",
            mockup="A",
            place=place,
            crank_deg=float(at - (14 if place.side is Side.EXHAUST else 4)),
            clearance_mm=2.2 + 0.012 * (at - 9) ** 2,
        )
        for place in places
        for at in range(19)
    ]
    making_rows.write(four, person, *readings)
    return four


if __name__ == "__main__":
    sys.exit(on_a_database(_measure))
