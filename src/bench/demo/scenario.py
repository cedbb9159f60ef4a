"""The made-up scenario: a restoration and race shop, its people and its builds. All of it is invented.

Builds are entered as a person would type them, through the same reading and writing as the pages use.
"""

from collections.abc import Mapping

from django.db import transaction
from django_scopes import scope, scopes_disabled

from bench.builds import services
from bench.builds.models import Build, ClayReading, DeckReading, Entry, FinalGasket, MockUp, VolumeReading
from bench.shops.models import Person, Shop
from mockup.checks.margins import LimitName
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Lifters
from mockup.engine.valves import Side
from mockup.quantity.typed import parse_bench_length, parse_deck, parse_dimension, parse_piston_volume, parse_volume
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.clay import Gap
from mockup.readings.volumes import Part

SHOP = "Saltmarsh Engine Works"
MEMBER = "ottoline"
VIEWER = "barnaby"


def load() -> None:
    """Make the demo shop where it is missing; one that is there is left as it is."""
    with scopes_disabled(), transaction.atomic():
        shop, fresh = Shop.objects.get_or_create(name=SHOP)
        if not fresh:
            return
        ottoline = Person(username=MEMBER, first_name="Ottoline", shop=shop, role=Person.Role.MEMBER)
        barnaby = Person(username=VIEWER, first_name="Barnaby", shop=shop, role=Person.Role.VIEWER)
        for person in (ottoline, barnaby):
            person.set_unusable_password()
            person.save()
    with scope(shop=shop):
        fill(shop, ottoline)


def is_demo_shop(shop: Shop) -> bool:
    """Whether this is the demo's own shop."""
    return shop.name == SHOP


@transaction.atomic
def fill(shop: Shop, by: Person) -> None:
    """Put the demo's builds on the stand, in place of whatever stood there."""
    old = Build.objects.filter(shop=shop)
    ClayReading.objects.filter(build__in=old).delete()
    old.delete()
    _heron(by)
    _wren(by)


def _inch(text: str) -> float:
    return parse_bench_length(text, Unit.INCH)


def _large(text: str) -> float:
    return parse_dimension(text, Unit.INCH)


def _put(build: Build, by: Person, typed: str, entry: Entry) -> None:
    entry.build, entry.typed = build, typed
    services.write(entry, by)


def _heron(by: Person) -> None:
    """An inline six with pushrods for a vintage race boat: all read, one exhaust too close to call."""
    build = services.save_build(
        Build(),
        by,
        name="Heron",
        subtitle="hull 31",
        unit=Unit.INCH,
        deck_sign=DeckSign.DOWN_POSITIVE,
        sheet="street-floor",
        cylinders=6,
        bore_mm=_large("3.750"),
        stroke_mm=_large("3.875"),
        rod_length_mm=_large("6.800"),
        pin_offset_mm=_inch("0.060"),
        rocker_ratio=1.55,
        intake_angle_deg=12.0,
        exhaust_angle_deg=12.0,
    )
    for cylinder, typed in enumerate(("6 down", "5 down", "4.5 down", "5 down", "6.5 down", "7 down"), start=1):
        mm = parse_deck(typed, Unit.INCH, DeckSign.DOWN_POSITIVE)
        _put(build, by, typed, DeckReading(cylinder=cylinder, clearance_mm=mm))
    gasket = FinalGasket(name="steel, three layers", compressed_mm=_inch("36"), bore_mm=_large("3.825"))
    _put(build, by, "36, bore 3.825", gasket)
    for cylinder, typed in enumerate(("63.6", "63.4", "63.8", "63.5", "63.9", "63.5"), start=1):
        chamber = VolumeReading(part=Part.CHAMBER, cylinder=cylinder, cc=parse_volume(typed))
        _put(build, by, typed, chamber)
    _put(build, by, "dish 5.2 cc", VolumeReading(part=Part.PISTON, cc=parse_piston_volume("dish 5.2 cc")))
    for limit, value in ((LimitName.RATIO_LOW, 9.6), (LimitName.RATIO_HIGH, 10.3)):
        services.edit_limit(build, by, limit, value, "fuel sold at the lake", str(value))
    mockup = services.save_mockup(
        build,
        by,
        gasket_state=GasketState.COMPRESSED,
        gasket_mm=_inch("39"),
        bolts=Bolts.TORQUED,
        lifters=Lifters.SOLID,
    )
    _clay(build, by, mockup, _HERON_CLAY)


_HERON_CLAY = {
    (1, Side.INTAKE): (("98", "97.5", "99"), ("54",)),
    (1, Side.EXHAUST): (("112.5", "111", "114"), ("41",)),
    (6, Side.INTAKE): (("96", "97", "96.5"), ("52",)),
    (6, Side.EXHAUST): (("107", "105.5", "106"), ("38",)),
}
"""Cylinder and side: face thicknesses, edge gaps, as typed."""


def _clay(
    build: Build, by: Person, mockup: MockUp, sheet: Mapping[tuple[int, Side], tuple[tuple[str, ...], tuple[str, ...]]]
) -> None:
    for (cylinder, side), gaps in sheet.items():
        for gap, thicknesses in zip(Gap, gaps, strict=True):
            for typed in thicknesses:
                reading = ClayReading(mockup=mockup, cylinder=cylinder, side=side, gap=gap, thickness_mm=_inch(typed))
                _put(build, by, typed, reading)


def _wren(by: Person) -> None:
    """A twin-cam four with sixteen valves for a hill-climb special: barely begun."""
    build = services.save_build(
        Build(),
        by,
        name="Wren",
        subtitle="hill-climb special",
        unit=Unit.MILLIMETRE,
        deck_sign=DeckSign.OUT_POSITIVE,
        sheet="makers",
        cylinders=4,
        bore_mm=86.0,
        stroke_mm=77.4,
        rod_length_mm=139.5,
        intake_count=2,
        intake_angle_deg=15.5,
        exhaust_count=2,
        exhaust_angle_deg=16.5,
    )
    typed = "0.21 down"
    mm = parse_deck(typed, Unit.MILLIMETRE, DeckSign.OUT_POSITIVE)
    _put(build, by, typed, DeckReading(cylinder=1, clearance_mm=mm))
