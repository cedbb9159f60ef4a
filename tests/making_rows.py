"""The factory of rows: shops with people, and builds entered as a person would."""

from typing import Any

from django_scopes import scope, scopes_disabled

from bench.builds import services
from bench.builds.models import Build, ClayReading, DeckReading, FinalGasket, MockUp, VolumeReading
from bench.shops.models import Person, Shop
from mockup.engine.gasket import GasketState
from mockup.engine.valves import Side
from mockup.readings.volumes import Part
from tests.making import thou


def person(username: str = "clementine", shop_name: str = "Saltmarsh", role: str = Person.Role.MEMBER) -> Person:
    with scopes_disabled():
        shop, _ = Shop.objects.get_or_create(name=shop_name)
        return Person.objects.create_user(username, password="brass-monkey", shop=shop, role=role)


def build(by: Person, **changes: Any) -> Build:
    """A bare inline two in inches."""
    plain = {"name": "Heron", "cylinders": 2, "bore_mm": 95.25, "stroke_mm": 98.425, "rod_length_mm": 172.72}
    with scope(shop=by.shop):
        return services.save_build(Build(), by, **(plain | changes))


def mockup(built: Build, by: Person, **changes: Any) -> MockUp:
    with scope(shop=by.shop):
        conditions = {"gasket_state": GasketState.COMPRESSED, "gasket_mm": thou(36)} | changes
        return services.save_mockup(built, by, **conditions)


def read_build(by: Person, cylinders: int = 2, valves: int = 1, slices: int = 3) -> Build:
    """A whole build with everything read, clear by the usual street sheet."""
    built = build(by, cylinders=cylinders, intake_count=valves, exhaust_count=valves)
    under = mockup(built, by, bolts="torqued")
    common = {"build": built, "by": by}
    with scope(shop=by.shop):
        FinalGasket.objects.create(compressed_mm=thou(36), bore_mm=97.0, **common)
        VolumeReading.objects.create(part=Part.CHAMBER, cc=70.0, **common)
        VolumeReading.objects.create(part=Part.PISTON, cc=5.0, **common)
        every = range(1, cylinders + 1)
        DeckReading.objects.bulk_create(DeckReading(cylinder=n, clearance_mm=thou(5), **common) for n in every)
        ClayReading.objects.bulk_create(
            ClayReading(mockup=under, cylinder=n, side=side, valve=valve, thickness_mm=thou(thickness + slot), **common)
            for n in every
            for side, thickness in ((Side.INTAKE, 95), (Side.EXHAUST, 115))
            for valve in range(1, valves + 1)
            for slot in range(slices)
        )
    return built
