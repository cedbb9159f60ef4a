"""The shape of a job file, version 3, made from the core's own records.

It also makes the schema.

Fields have the names of the record, lengths without ``_mm``. A valve's place is its cylinder, side and number. Each
kind of reading has its own list.
"""

import inspect
from collections.abc import Mapping
from functools import cache
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    WithJsonSchema,
    create_model,
    model_validator,
)
from pydantic_core import PydanticCustomError

import mockup.readings  # noqa: F401, importing the package registers the kinds
from mockup.base.faults import FaultsError
from mockup.engine.valves import Place, Side
from mockup.formats.lengths import ChangeAmount, DeckMm, LengthMm, length_schema
from mockup.formats.limits_shape import LimitsShape
from mockup.job import Job
from mockup.quantity.fields import FieldInfo, Measure, Most, Text, Within, fields_of
from mockup.readings.instruments import Instrument
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Reading

FORMAT = "astute-mole/job"
VERSION = 3
MOST_READINGS = 5000
MOST_INSTRUMENTS = 100
LONGEST_PROGRAM = 100
"""Longest name of the program that wrote the file [characters]."""

_NUMBERS: Mapping[Measure, Any] = {Measure.LENGTH: LengthMm, Measure.DECK: DeckMm, Measure.AMOUNT: ChangeAmount}


def _whole(raw: Any) -> Any:
    """Accept 1.0 as a whole number, as JSON Schema does."""
    return int(raw) if isinstance(raw, float) and raw.is_integer() else raw


_PLAIN: Mapping[type, Any] = {
    float: Annotated[float, Field(strict=True, allow_inf_nan=False)],
    bool: Annotated[bool, Field(strict=True)],
    int: Annotated[int, Field(strict=True), BeforeValidator(_whole)],
}


_STRICT = ConfigDict(extra="forbid", frozen=True, defer_build=True)


class Shape(BaseModel):
    """One part of the file; refuses unknown fields and impossible values.

    ``CORE`` is its record.
    """

    model_config = _STRICT
    CORE: ClassVar[Any] = None

    def core(self, **more: Any) -> Any:
        """Return the part as core data, with ``more`` of its fields given. Raises FaultsError."""
        kept: dict[str, Any] = {}
        for held in fields_of(self.CORE):
            if held.holds is Place:
                kept[held.name] = Place(*(getattr(self, name) for name in _PLACE))
            else:
                kept[held.name] = core_of(getattr(self, held.plain_name))
        return self.CORE(**kept | more)

    @model_validator(mode="after")
    def _the_core_takes_it(self) -> Self:
        try:
            self.core()
        except FaultsError as error:
            raise PydanticCustomError("core", "refused", {"faults": error.faults}) from error
        return self


def core_of(value: Any) -> Any:
    """Convert a part of the file to core data: shapes to records, lists to tuples."""
    if isinstance(value, Shape):
        return value.core()
    return tuple(core_of(one) for one in value) if isinstance(value, list) else value


_PLACE: Mapping[str, Any] = {
    "cylinder": (Annotated[_PLAIN[int], WithJsonSchema({"type": "integer", "minimum": 1, "maximum": 16})], ...),
    "side": (Side, ...),
    "valve": (Annotated[_PLAIN[int], WithJsonSchema({"type": "integer", "minimum": 1, "maximum": 3})], 1),
}


def shape_of(core: type[Any]) -> type[Shape]:
    """Return the shape of one class of core records."""
    return _shape_of(core)  # type: ignore[arg-type]  # mypy takes a class for something that cannot be hashed


@cache
def _shape_of(core: type[Any]) -> type[Shape]:
    made: dict[str, Any] = {}
    for held in fields_of(core):
        made |= _PLACE if held.holds is Place else {held.plain_name: _field(held)}
    shape = create_model(core.__name__, __base__=Shape, __doc__=_says(core), **made)
    shape.CORE = core
    return shape


def _says(core: type[Any]) -> str:
    """Return the first line of a record's docstring."""
    return (inspect.getdoc(core) or "").partition("\n")[0]


def _field(held: FieldInfo) -> tuple[Any, Any]:
    kept: Any = _of_one(held)
    if held.several:
        most = held.mark(Most)
        kept = Annotated[list[kept], Field(max_length=most.count if most else MOST_READINGS)]
    if held.optional:
        kept = kept | None
    return kept, _default(held)


def _of_one(held: FieldInfo) -> Any:
    if held.measure:
        kept = _NUMBERS[held.measure]
    elif held.holds is str:
        text = held.mark(Text)
        kept = Annotated[str, Field(min_length=text.least, max_length=text.most)] if text else str
    elif hasattr(held.holds, "__dataclass_fields__"):
        kept = shape_of(held.holds)
    else:
        kept = _PLAIN.get(held.holds, held.holds)
    within = held.mark(Within)
    if within:
        kept = Annotated[kept, WithJsonSchema(_schema(held, within))]
    # Validated alone too, so that one bad field does not hide the next.
    return Annotated[kept, AfterValidator(_inside(within))] if within else kept


def _schema(held: FieldInfo, within: Within) -> dict[str, Any]:
    """Return the schema of a bounded number; for a length, in the unit of the file."""
    if held.measure in (Measure.LENGTH, Measure.DECK):
        return length_schema(held.measure, within.low, within.high)
    if held.holds is int:
        return {"type": "integer", "minimum": int(within.low), "maximum": int(within.high)}
    return {"type": "number", "minimum": within.low, "maximum": within.high}


def _inside(within: Within) -> Any:
    def check(value: float) -> float:
        if not within.low <= value <= within.high:
            raise ValueError(within.words)
        return value

    return check


def _default(held: FieldInfo) -> Any:
    if held.is_required:
        return ...
    if hasattr(held.default, "__dataclass_fields__"):
        return Field(default_factory=shape_of(held.holds))
    return Field(default=list(held.default)) if isinstance(held.default, tuple) else held.default


def job_shape() -> type[BaseModel]:
    """Return the shape of a whole file, with every known kind of reading."""
    return _job_shape(tuple(kind.core for kind in READING_KINDS))


@cache
def _job_shape(kinds: tuple[type[Reading], ...]) -> type[BaseModel]:
    made: dict[str, Any] = {"format": (Literal["astute-mole/job"], ...), "version": (Literal[1, 2, 3], ...)}
    for held in fields_of(Job):
        if held.name == "limits":
            made["limits"] = (LimitsShape, ...)
        elif held.name == "readings":
            made |= {READING_KINDS.of(core).listed: _list_of(core, MOST_READINGS) for core in kinds}
        elif held.name == "instruments":
            made["instruments"] = _list_of(Instrument, MOST_INSTRUMENTS)
        else:
            made[held.plain_name] = _field(held)
    # Written for people who wonder which version made a file; the file's own version decides how it is read.
    made["program"] = (Annotated[str, Field(max_length=LONGEST_PROGRAM)], "")
    return create_model("JobFile", __config__=_STRICT, __doc__="A whole job file.", **made)


def _list_of(core: type[Any], most: int) -> tuple[Any, Any]:
    shape: Any = shape_of(core)
    return Annotated[list[shape], Field(max_length=most)], Field(default=[])
