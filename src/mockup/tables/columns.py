"""The columns of readings: what each is called, and which field of which kind of reading it holds.

A field is called in a table as in a job file, with blanks; a length says its unit in brackets: ``thickness (in)``.
Headings are understood in any order and case, with the usual other names.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from typing import Any

import mockup.readings  # noqa: F401, its kinds declare themselves as they are read in
from mockup.engine.valves import Place
from mockup.quantity.fields import Held, Measure, fields_of
from mockup.quantity.value import Unit
from mockup.reading_kinds import READING_KINDS, ReadingKind
from mockup.record import Record

KIND = "kind"
PLACE = "place"
OF_PLACE = ("cylinder", "side", "valve")
OF_RECORD = {"typed": "typed", "read by": "by", "read at": "at", "struck out": "struck"}
"""The columns of a reading's record, and its fields."""
VALUE = "reading"
"""A column that holds whatever a kind of reading is mainly of: the thickness of clay, the clearance of a deck."""
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
    """A heading understood: the name of its field, with blanks, and the unit it says ("" for none)."""

    name: str
    unit: str
    heading: str


def understood(heading: str) -> Column:
    """A heading taken apart: ``Thickness [mm]`` is thickness in mm."""
    plain = " ".join(heading.lower().replace("_", " ").split())
    found = _WITH_UNIT.match(plain)
    unit = UNITS.get(found["unit"], "") if found else ""
    name = found["name"] if found and unit else plain
    if found and not unit and found["unit"] in ("deg", "degrees", "cc", "cm3"):
        name = found["name"]
    return Column(OTHER_NAMES.get(name, name), unit, heading)


@cache
def _held_by(core: Any) -> dict[str, Held]:
    return {name_of(held): held for held in fields_of(core) if held.holds not in (Place, Record)}


def held_by(kind: ReadingKind) -> dict[str, Held]:
    """The fields of a kind of reading by the names of their columns, without place and record."""
    return _held_by(kind.core)  # type: ignore[arg-type]  # mypy takes a class for something that cannot be hashed


def name_of(held: Held) -> str:
    """What the column of a field is called."""
    return held.plain_name.replace("_", " ")


def has_valve(kind: ReadingKind) -> bool:
    """Whether a kind of reading stands at a valve."""
    return any(held.holds is Place for held in fields_of(kind.core))


def main_field(kind: ReadingKind) -> str:
    """The column a kind of reading is mainly of: its first number that must be given."""
    numbers = (name for name, held in held_by(kind).items() if held.holds is float and held.is_required)
    return next(numbers, "")


def columns_of(kind: ReadingKind) -> set[str]:
    """Every name a column may have for a kind of reading."""
    place = {*OF_PLACE, PLACE} if has_valve(kind) else {PLACE} if "cylinder" in held_by(kind) else set()
    return {KIND, VALUE, *held_by(kind), *OF_RECORD, *place}


@cache
def every_column() -> frozenset[str]:
    """Every name a column may have for any kind of reading."""
    return frozenset(name for kind in READING_KINDS for name in columns_of(kind))


def heading_of(held: Held, unit: Unit) -> str:
    """The heading of a field's column, with its unit where it is a length."""
    if held.measure is Measure.DECK:
        return f"{name_of(held)} ({unit}, + down)"
    return f"{name_of(held)} ({unit})" if held.measure is Measure.LENGTH else name_of(held)


def kind_named(text: str) -> ReadingKind | None:
    """The kind of reading that a word means: its name, its list in a job file, or what the history calls it."""
    word = " ".join(text.lower().replace("_", " ").split())
    for kind in READING_KINDS:
        if word in (kind.name, kind.name.replace("-", " "), kind.listed.replace("_", " "), kind.words):
            return kind
    return None


def kind_of_columns(columns: Iterable[Column]) -> ReadingKind | None:
    """The one kind of reading that has every column there is, and needs none that is missing; None for several."""
    names = {column.name for column in columns}
    fitting = [kind for kind in READING_KINDS if names <= columns_of(kind) and not lacking(kind, names)]
    return fitting[0] if len(fitting) == 1 else None


def lacking(kind: ReadingKind, names: set[str]) -> list[str]:
    """The columns a kind of reading needs that are not among ``names``."""
    given = names | ({main_field(kind)} if VALUE in names else set())
    if PLACE in given:
        given |= set(OF_PLACE)
    needed = [name for name, held in held_by(kind).items() if held.is_required]
    needed += ["cylinder", "side"] if has_valve(kind) else []
    return [name for name in needed if name not in given]
