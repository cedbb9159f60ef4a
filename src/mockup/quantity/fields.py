"""What a field of a record holds beyond its type: unit, length of text, number of items.

A record declares it once (``thickness_mm: Mm``). The job file, its schema, the log and forms derive theirs from it.
"""

from collections.abc import Mapping
from dataclasses import MISSING, Field, dataclass, fields
from enum import StrEnum
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from mockup.base.faults import Fault


class Measure(StrEnum):
    """What a number is: a length or deck clearance [mm], or an amount of declared unit."""

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
    """The most items a list may have."""

    count: int


@dataclass(frozen=True, slots=True)
class Within:
    """The range of a number in its own unit, and the message for one outside."""

    low: float
    high: float
    words: str


Mm = Annotated[float, Measure.LENGTH]
"""A length [mm]."""
DeckMm = Annotated[float, Measure.DECK]
"""A deck clearance [mm], positive in the hole."""
Amount = Annotated[float, Measure.AMOUNT]
"""The amount of a change: a length [mm] where its kind says so, else degrees, a ratio or cm3."""
Words = Annotated[str, Text(200)]
Name = Annotated[str, Text(80, least=1)]
Key = Annotated[str, Text(40)]


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldInfo:
    """One field of a record: its name, the type it holds, and the marks of its definition.

    ``several``: it is a tuple of them; ``optional``: it may be None. ``default`` is MISSING where a value is required.
    """

    name: str
    holds: Any
    marks: tuple[Any, ...]
    several: bool
    optional: bool
    default: Any

    @property
    def is_required(self) -> bool:
        """Whether a value is required."""
        return self.default is MISSING

    @property
    def measure(self) -> Measure | None:
        """The unit of the number, where the record declares one."""
        return next((mark for mark in self.marks if isinstance(mark, Measure)), None)

    @property
    def plain_name(self) -> str:
        """The name without its unit, as files use it; lengths in files carry their own unit."""
        is_length = self.measure in (Measure.LENGTH, Measure.DECK)
        return self.name.removesuffix("_mm") if is_length else self.name

    def mark(self, of: type[Any]) -> Any:
        """Return the definition's mark of one type (Text, Most, Within), or None."""
        return next((mark for mark in self.marks if isinstance(mark, of)), None)


def fields_of(record: type[Any]) -> tuple[FieldInfo, ...]:
    """Return the fields of a record class that are stored in files, in order."""
    return _fields_of(record)  # type: ignore[arg-type]  # mypy takes a class for something that cannot be hashed


@cache
def _fields_of(record: type[Any]) -> tuple[FieldInfo, ...]:
    hints = get_type_hints(record, include_extras=True)
    kept = [one for one in fields(record) if one.init and one.metadata.get("file", True)]
    return tuple(_held(one, hints[one.name]) for one in kept)


def outside(record: Any) -> list[Fault]:
    """Return a fault for every number of a record outside its declared range; NaN is outside.

    None in an optional field is never outside.
    """
    return [
        Fault(one.name, within.words)
        for one in fields_of(type(record))
        if (within := one.mark(Within))
        and not (one.optional and getattr(record, one.name) is None)
        and not within.low <= getattr(record, one.name) <= within.high
    ]


def _held(one: Field[Any], hint: Any) -> FieldInfo:
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
    return FieldInfo(name=one.name, holds=hint, marks=tuple(marks), several=several, optional=optional, default=default)


def _is_record(kept: Any) -> bool:
    return hasattr(kept, "__dataclass_fields__")


def flat_fields(record: type[Any]) -> dict[str, FieldInfo]:
    """Return the fields of a record class; nested ones are prefixed: ``intake_angle_deg``."""
    found: dict[str, FieldInfo] = {}
    for held in fields_of(record):
        if _is_record(held.holds) and not held.several and not held.optional:
            found |= {f"{held.name}_{name}": one for name, one in flat_fields(held.holds).items()}
        else:
            found[held.name] = held
    return found


def flat(record: Any) -> dict[str, Any]:
    """Return the values of a record under the names of ``flat_fields``."""
    found: dict[str, Any] = {}
    for held in fields_of(type(record)):
        value = getattr(record, held.name)
        if _is_record(held.holds) and not held.several and not held.optional:
            found |= {f"{held.name}_{name}": one for name, one in flat(value).items()}
        else:
            found[held.name] = value
    return found


def from_flat(record: type[Any], values: Mapping[str, Any]) -> Any:
    """Return the record with these values; missing ones take their default.

    Raises KeyError, FaultsError.
    """
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
