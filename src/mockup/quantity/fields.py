"""What a field of a frozen record holds, beyond its bare type: its unit, its length as text, how many it may have.

A record says so where it is defined (``thickness_mm: Mm``), and whatever reads or writes records (the job file, its
schema, the book, forms) takes it from there.
"""

from collections.abc import Mapping
from dataclasses import MISSING, Field, dataclass, fields
from enum import StrEnum
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from mockup.faults import Fault


class Measure(StrEnum):
    """What a number is of: a length [mm], a deck clearance [mm], or an amount whose kind says its unit."""

    LENGTH = "length"
    DECK = "deck"
    AMOUNT = "amount"


@dataclass(frozen=True, slots=True)
class Text:
    """How long a text may be, in characters."""

    most: int
    least: int = 0


@dataclass(frozen=True, slots=True)
class Most:
    """How many things a list may have."""

    count: int


@dataclass(frozen=True, slots=True)
class Within:
    """From where to where a number may lie, in its own unit, and what to say of one outside."""

    low: float
    high: float
    words: str


Mm = Annotated[float, Measure.LENGTH]
"""A length [mm]."""
DeckMm = Annotated[float, Measure.DECK]
"""A deck clearance [mm], positive in the hole."""
Amount = Annotated[float, Measure.AMOUNT]
"""How much of a change: a length [mm] where its kind says so, else degrees, a ratio or cm3."""
Words = Annotated[str, Text(200)]
Name = Annotated[str, Text(80, least=1)]
Key = Annotated[str, Text(40)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """One field of a record: its name, the type of what it holds, and what its definition says of it.

    ``several``: it is a tuple of them; ``optional``: it may be None. ``default`` is MISSING where one must be given.
    """

    name: str
    holds: Any
    marks: tuple[Any, ...]
    several: bool
    optional: bool
    default: Any

    @property
    def is_required(self) -> bool:
        """Whether one must be given."""
        return self.default is MISSING

    @property
    def measure(self) -> Measure | None:
        """What a number is of, where the record says it."""
        return next((mark for mark in self.marks if isinstance(mark, Measure)), None)

    @property
    def plain_name(self) -> str:
        """Its name without the unit, as files call it: lengths there bring their own."""
        is_length = self.measure in (Measure.LENGTH, Measure.DECK)
        return self.name.removesuffix("_mm") if is_length else self.name

    def mark(self, of: type[Any]) -> Any:
        """What the definition says of one sort (Text, Most, Within), None where it says nothing."""
        return next((mark for mark in self.marks if isinstance(mark, of)), None)


def fields_of(record: type[Any]) -> tuple[Held, ...]:
    """The fields of a class of records that are kept in files, in their order."""
    return _fields_of(record)  # type: ignore[arg-type]  # mypy takes a class for something that cannot be hashed


@cache
def _fields_of(record: type[Any]) -> tuple[Held, ...]:
    hints = get_type_hints(record, include_extras=True)
    kept = [one for one in fields(record) if one.init and one.metadata.get("file", True)]
    return tuple(_held(one, hints[one.name]) for one in kept)


def outside(record: Any) -> list[Fault]:
    """A fault for every number of a record that lies outside the range its definition gives; NaN lies outside.

    What may be None, and is, lies nowhere.
    """
    return [
        Fault(one.name, within.words)
        for one in fields_of(type(record))
        if (within := one.mark(Within))
        and not (one.optional and getattr(record, one.name) is None)
        and not within.low <= getattr(record, one.name) <= within.high
    ]


def _held(one: Field[Any], hint: Any) -> Held:
    marks: list[Any] = []
    optional = several = False
    while True:
        origin = get_origin(hint)
        if origin is Annotated:
            hint, *more = get_args(hint)
            marks += more
        elif origin in (Union, UnionType):
            (hint,) = (arm for arm in get_args(hint) if arm is not NoneType)
            optional = True
        elif origin is tuple:
            hint, several = get_args(hint)[0], True
        else:
            break
    default = one.default if one.default_factory is MISSING else one.default_factory()
    return Held(name=one.name, holds=hint, marks=tuple(marks), several=several, optional=optional, default=default)


def _is_record(kept: Any) -> bool:
    return hasattr(kept, "__dataclass_fields__")


def flat_fields(record: type[Any]) -> dict[str, Held]:
    """The fields of a class of records, those of records in it with its name before theirs: ``intake_angle_deg``."""
    found: dict[str, Held] = {}
    for held in fields_of(record):
        if _is_record(held.holds) and not held.several and not held.optional:
            found |= {f"{held.name}_{name}": one for name, one in flat_fields(held.holds).items()}
        else:
            found[held.name] = held
    return found


def flat(record: Any) -> dict[str, Any]:
    """The values of a record by the same names."""
    found: dict[str, Any] = {}
    for held in fields_of(type(record)):
        value = getattr(record, held.name)
        if _is_record(held.holds) and not held.several and not held.optional:
            found |= {f"{held.name}_{name}": one for name, one in flat(value).items()}
        else:
            found[held.name] = value
    return found


def from_flat(record: type[Any], values: Mapping[str, Any]) -> Any:
    """The record of such values; what is left out is what it is when nothing is said. Raises KeyError, FaultsError."""
    unknown = set(values) - set(flat_fields(record))
    if unknown:
        raise KeyError(f"{record.__name__} has no {', '.join(sorted(unknown))}.")
    given: dict[str, Any] = {}
    for held in fields_of(record):
        if _is_record(held.holds) and not held.several and not held.optional:
            stem = f"{held.name}_"
            inner = {name.removeprefix(stem): one for name, one in values.items() if name.startswith(stem)}
            given[held.name] = from_flat(held.holds, inner)
        elif held.name in values:
            given[held.name] = values[held.name]
    return record(**given)
