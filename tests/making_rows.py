"""The factory of rows: shops with people, and builds entered as a person would."""

from enum import StrEnum
from typing import Any

from django_scopes import scope, scopes_disabled

from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.valves import Place, Side
from mockup.quantity.fields import FieldInfo, flat, flat_fields, from_flat
from mockup.quantity.typed import parse_firing_order
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.volumes import VolumePart, VolumeReading
from tests.making import mockup as careful_mockup
from tests.making import thou
from web.builds import services
from web.builds.entry_kinds import item_of, record_of
from web.builds.models import Build, Entry, MockUp
from web.shops.models import Person, Shop


def person(username: str = "clementine", shop_name: str = "Saltmarsh", role: str = Person.Role.MEMBER) -> Person:
    with scopes_disabled():
        shop, _ = Shop.objects.get_or_create(name=shop_name)
        return Person.objects.create_user(username, password="brass-monkey", shop=shop, role=role)


def build(by: Person, **changes: Any) -> Build:
    """A bare inline two in inches."""
    plain: dict[str, Any] = {
        "name": "Bittern",
        "cylinders": 2,
        "bore_mm": 95.25,
        "stroke_mm": 98.425,
        "rod_length_mm": 172.72,
    }
    plain |= {"rocker_ratio": 1.0, "intake_angle_deg": 0.0, "exhaust_angle_deg": 0.0}
    with scope(shop=by.shop):
        return save(Build(), by, **(plain | changes))


def _held(held: FieldInfo, value: Any) -> Any:
    if held.name == "firing_order":
        return parse_firing_order(value)
    return held.holds(value) if issubclass(held.holds, StrEnum) else value


def save(built: Build, by: Person, **changes: Any) -> Build:
    """Begin a build, or change it: its own fields and its engine's by their names in forms."""
    held = flat_fields(Engine)
    of_engine = {name: _held(held[name], changes.pop(name)) for name in list(changes) if name in held}
    now = flat(built.engine) if built.pk else {}
    engine = from_flat(Engine, now | of_engine) if of_engine else None
    return services.save_build(built, by, engine=engine, **changes)


def mockup(built: Build, by: Person, **changes: Any) -> MockUp:
    with scope(shop=by.shop):
        conditions = flat(careful_mockup(key="")) | changes
        return services.save_mockup(built, by, record_of(CoreMockUp, conditions))


def write(built: Build, by: Person, *items: Any) -> list[Entry]:
    """Pieces of the core into the book of a build."""
    with scope(shop=by.shop), services.locked(built):
        return [services.write(built, item, by, typed="typed") for item in items]


def lines(built: Build, kind: str) -> list[Entry]:
    """The book's entries of one kind."""
    with scope(shop=built.shop):
        return list(Entry.objects.filter(build=built, kind=kind))


def items(built: Build, kind: str) -> list[Any]:
    """The same as pieces of the core."""
    named = {} if kind in ("gasket", "shims", "limit", "done", "running") else {"key": "x"}
    return [item_of(line.kind, line.data, **named) for line in lines(built, kind)]


def read_build(by: Person, cylinders: int = 2, valves: int = 1, slices: int = 3) -> Build:
    """A whole build with everything read, clear by the usual street sheet."""
    built = build(by, cylinders=cylinders, intake_count=valves, exhaust_count=valves)
    mockup(built, by, bolts="torqued")
    every = range(1, cylinders + 1)
    clay = [
        ClayReading(key="", mockup="A", place=Place(n, side, valve), thickness_mm=thou(thickness + slot))
        for n in every
        for side, thickness in ((Side.INTAKE, 95), (Side.EXHAUST, 115))
        for valve in range(1, valves + 1)
        for slot in range(slices)
    ]
    write(
        built,
        by,
        FinalGasket(compressed_mm=thou(36), bore_mm=97.0),
        VolumeReading(key="", part=VolumePart.CHAMBER, cc=70.0),
        VolumeReading(key="", part=VolumePart.PISTON, cc=5.0),
        *(DeckReading(key="", cylinder=n, clearance_mm=thou(5)) for n in every),
        *clay,
    )
    return built
