"""Lengths in a job file: a number in the file's unit, or text with its own unit."""

import math
from collections.abc import Callable
from decimal import Decimal
from typing import Annotated, Any

from pydantic import BeforeValidator, ValidationInfo, WithJsonSchema

from mockup.quantity.fields import Measure
from mockup.quantity.typed import LengthError, parse_dimension
from mockup.quantity.typed_deck import parse_deck
from mockup.quantity.value import INCH_MM, MM_PER_INCH, DeckSign, Unit

_UNITLESS = "A length in text needs its unit, as in “0.112 in” or “2.84 mm”."


def file_unit(info: ValidationInfo) -> Unit:
    """Return the unit of the file being read."""
    unit: Unit = (info.context or {}).get("unit", Unit.MILLIMETRE)
    return unit


def _is_finite(raw: float) -> bool:
    """Return whether a number can be a length; a whole number of hundreds of digits cannot."""
    return abs(raw) < 1e300 if isinstance(raw, int) else math.isfinite(raw)


def _number(raw: Any, info: ValidationInfo) -> float | None:
    if isinstance(raw, bool) or not isinstance(raw, int | float):
        return None
    if not _is_finite(raw):
        raise ValueError("This is not a finite number.")
    # Through decimals, like typing, so that 0.112 in a file and 0.112 typed are the same length.
    return float(Decimal(repr(raw)) * (INCH_MM if file_unit(info) is Unit.INCH else 1))


def _reader(parse: Callable[[str], float], what: str) -> Callable[[Any, ValidationInfo], float]:
    def read(raw: Any, info: ValidationInfo) -> float:
        number = _number(raw, info)
        if number is not None:
            return number
        if not isinstance(raw, str):
            raise ValueError(what)  # noqa: TRY004, pydantic turns a ValueError into a fault of the file
        try:
            return parse(raw)
        except LengthError as error:
            raise ValueError(str(error)) from error

    return read


def _parse_with_unit(text: str) -> float:
    if text.strip().lower().lstrip("-").replace(".", "", 1).isdigit():
        raise LengthError(_UNITLESS)
    # A negative length with a unit is valid in a file (a pin offset), though nobody types one.
    stripped = text.strip()
    if stripped[:1] in ("-", "−"):
        return -parse_dimension(stripped[1:], Unit.MILLIMETRE)
    return parse_dimension(stripped, Unit.MILLIMETRE)


def _parse_deck_text(text: str) -> float:
    words = text.strip().lower()
    if words not in ("zero", "level") and not any(unit in words for unit in ("mm", " in ", "thou", '"')):
        raise LengthError(_UNITLESS)
    return parse_deck(text, Unit.MILLIMETRE, DeckSign.DOWN_POSITIVE)


_WITH_UNIT = r'^\s*[-−]?\s*([0-9]+(\.[0-9]*)?|\.[0-9]+)\s*(mm|cm|in|inch|inches|thou|")\s*$'
_DECK_TEXT = r'^\s*(zero|level|([0-9]+(\.[0-9]*)?|\.[0-9]+)\s*(mm|cm|in|inch|inches|thou|")\s*(down|out))\s*$'


def length_schema(measure: Measure, low_mm: float, high_mm: float) -> dict[str, Any]:
    """Return the schema of a length from ``low_mm`` to ``high_mm``, as number or text."""
    number = {
        "type": "number",
        "minimum": min(low_mm, low_mm / MM_PER_INCH),
        "maximum": max(high_mm, high_mm / MM_PER_INCH),
    }
    signed = _DECK_TEXT if measure is Measure.DECK else _WITH_UNIT
    text = signed if low_mm < 0 or measure is Measure.DECK else _WITH_UNIT.replace(r"[-−]?\s*", "")
    return {"anyOf": [number, {"type": "string", "pattern": text}]}


LENGTH_SCHEMA: dict[str, Any] = {"anyOf": [{"type": "number"}, {"type": "string", "pattern": _WITH_UNIT}]}
read_length = _reader(_parse_with_unit, "A number in the file’s unit, or text like “0.112 in”.")
"""Read a length from a file [mm]; raises ValueError."""

LengthMm = Annotated[float, BeforeValidator(read_length), WithJsonSchema(LENGTH_SCHEMA)]
"""A length in a file, held in millimetres."""


def _amount(raw: Any, info: ValidationInfo) -> float:
    """Return the amount of a change, a length or not by its kind; version 1 has millimetres."""
    kind = info.data.get("kind")
    if kind is not None and kind.is_length and (info.context or {}).get("version") != 1:
        return read_length(raw, info)
    if isinstance(raw, bool) or not isinstance(raw, int | float) or not _is_finite(raw):
        raise ValueError("This is not a finite number.")
    return float(raw)


ChangeAmount = Annotated[
    float,
    BeforeValidator(_amount),
    WithJsonSchema(LENGTH_SCHEMA),
]
"""A change's amount in a file: millimetres where it is a length, otherwise unchanged."""

DeckMm = Annotated[
    float,
    BeforeValidator(_reader(_parse_deck_text, "A number (positive in the hole) or text like “0.006 in down”.")),
    WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string", "pattern": _DECK_TEXT}]}),
]
"""A deck clearance in a file, held in millimetres, positive in the hole."""
