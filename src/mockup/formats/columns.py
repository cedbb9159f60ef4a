"""The columns of readings: their names, and the field of a kind that each holds.

A field's column has the name it has in a job file, with spaces; a length gives its unit in brackets: ``thickness
(in)``. Headings are understood in any order and case, with the usual other names.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from typing import Any

import mockup.readings  # noqa: F401, importing the package registers the kinds
from mockup.engine.valves import Place
from mockup.quantity.fields import FieldInfo, Measure, fields_of
from mockup.quantity.value import Unit
from mockup.readings.kinds import READING_KINDS, ReadingKind
from mockup.readings.record import Record

KIND = "kind"
PLACE = "place"
OF_PLACE = ("cylinder", "side", "valve")
OF_RECORD = {"typed": "typed", "read by": "by", "read at": "at", "struck out": "struck"}
"""The columns of a reading's record, and its fields."""
VALUE = "reading"
"""A column for the main quantity of a kind of reading: the thickness of clay, the clearance of a deck."""
UNITS = {"in": "in", "inch": "in", "inches": "in", '"': "in", "thou": "thou", "mm": "mm", "cm": "cm"}
OTHER_NAMES = {
    "cyl": "cylinder",
    "cylinder no": "cylinder",
    "cylinder number": "cylinder",
    "in/ex": "side",
    "i/e": "side",
    "where": PLACE,
    "mock-up": "mockup",
    "mock up": "mockup",
    "who": "read by",
    "by": "read by",
    "when": "read at",
    "at": "read at",
    "what": VALUE,
    "value": VALUE,
    "struck": "struck out",
    "tool": "instrument",
    "angle": "crank deg",
    "crank": "crank deg",
    "degrees": "crank deg",
}
_WITH_UNIT = re.compile(r"^(?P<name>[^(\[,]*?)\s*[(\[,]\s*(?P<unit>[a-z\"]+)\b[^)\]]*[)\]]?\s*$")


@dataclass(frozen=True, slots=True)
class Column:
    """A heading as understood: the field's name with spaces, and its unit ("" for none)."""

    name: str
    unit: str
    heading: str


def understood(heading: str) -> Column:
    """Return a heading split into name and unit: ``Thickness [mm]`` is thickness in mm."""
    plain = " ".join(heading.lower().replace("_", " ").split())
    found = _WITH_UNIT.match(plain)
    unit = UNITS.get(found["unit"], "") if found else ""
    name = found["name"] if found and unit else plain
    if found and not unit and found["unit"] in ("deg", "degrees", "cc", "cm3"):
        name = found["name"]
    return Column(OTHER_NAMES.get(name, name), unit, heading)


@cache
def _held_by(core: Any) -> dict[str, FieldInfo]:
    return {name_of(held): held for held in fields_of(core) if held.holds not in (Place, Record)}


def held_by(kind: ReadingKind) -> dict[str, FieldInfo]:
    """Return the fields of a kind of reading by column name, without place and record."""
    return _held_by(kind.core)  # type: ignore[arg-type]  # mypy takes a class for something that cannot be hashed


def name_of(held: FieldInfo) -> str:
    """Return the column name of a field."""
    return held.plain_name.replace("_", " ")


def has_valve(kind: ReadingKind) -> bool:
    """Return whether readings of this kind belong to a valve."""
    return any(held.holds is Place for held in fields_of(kind.core))


def main_field(kind: ReadingKind) -> str:
    """The column a kind of reading is mainly of: its first number that must be given."""
    numbers = (name for name, held in held_by(kind).items() if held.holds is float and held.is_required)
    return next(numbers, "")


def columns_of(kind: ReadingKind) -> set[str]:
    """Return every column name allowed for a kind of reading."""
    place = {*OF_PLACE, PLACE} if has_valve(kind) else {PLACE} if "cylinder" in held_by(kind) else set()
    return {KIND, VALUE, *held_by(kind), *OF_RECORD, *place}


@cache
def every_column() -> frozenset[str]:
    """Return every column name allowed for any kind of reading."""
    return frozenset(name for kind in READING_KINDS for name in columns_of(kind))


def heading_of(held: FieldInfo, unit: Unit) -> str:
    """Return the heading of a field's column, with its unit where it is a length."""
    if held.measure is Measure.DECK:
        return f"{name_of(held)} ({unit}, + down)"
    return f"{name_of(held)} ({unit})" if held.measure is Measure.LENGTH else name_of(held)


def kind_named(text: str) -> ReadingKind | None:
    """Return the kind of reading meant by a word: its name, its list, or its words."""
    word = " ".join(text.lower().replace("_", " ").split())
    for kind in READING_KINDS:
        if word in (kind.name, kind.name.replace("-", " "), kind.listed.replace("_", " "), kind.words):
            return kind
    return None


def kind_of_columns(columns: Iterable[Column]) -> ReadingKind | None:
    """Return the only kind with all these columns and none missing; None for several."""
    names = {column.name for column in columns}
    fitting = [kind for kind in READING_KINDS if names <= columns_of(kind) and not lacking(kind, names)]
    return fitting[0] if len(fitting) == 1 else None


def lacking(kind: ReadingKind, names: set[str]) -> list[str]:
    """Return the columns that a kind of reading requires and that are not among ``names``."""
    given = names | ({main_field(kind)} if VALUE in names else set())
    if PLACE in given:
        given |= set(OF_PLACE)
    needed = [name for name, held in held_by(kind).items() if held.is_required]
    needed += ["cylinder", "side"] if has_valve(kind) else []
    return [name for name in needed if name not in given]
