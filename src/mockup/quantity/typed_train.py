"""How a person's typing becomes a pushrod's length or a wipe pattern."""

import re
from dataclasses import dataclass

from mockup.quantity.typed import LengthError, parse_bench_length, parse_dimension
from mockup.quantity.value import Unit


@dataclass(frozen=True, slots=True)
class Checker:
    """The adjustable checking pushrod in hand: its closed length [mm], None where it was not said, and pitch [mm]."""

    closed_mm: float | None
    pitch_mm: float


@dataclass(frozen=True, slots=True)
class PushrodTyped:
    """A trial as typed: closed length and pitch [mm], turns [1]; a whole length has no turns."""

    closed_mm: float
    turns: float
    pitch_mm: float


_TURNS = re.compile(r"^(?P<turns>[0-9]+(?:\.[0-9]*)?|\.[0-9]+)\s*(?:t|turns?)$")


def parse_pushrod(text: str, unit: Unit, checker: Checker) -> PushrodTyped:
    """Read a trial: ``11.5 turns`` of the checker in hand, or the whole length by caliper, ``7.375`` or ``187.3mm``.

    Raises LengthError.
    """
    found = _TURNS.match(text.strip().lower())
    if found is None:
        return PushrodTyped(parse_dimension(text, unit), 0.0, checker.pitch_mm)
    if checker.closed_mm is None:
        raise LengthError("Say the checker’s closed length above, then turns mean a length.")
    return PushrodTyped(checker.closed_mm, float(found["turns"]), checker.pitch_mm)


@dataclass(frozen=True, slots=True)
class WipeTyped:
    """A wipe pattern as typed [mm], and whether the rocker stood square, None where it was not said."""

    start_mm: float
    end_mm: float
    tip_mm: float
    square: bool | None


_WIPE = re.compile(r"^(?P<start>.+?)\s+to\s+(?P<end>.+?)\s+of\s+(?P<tip>.+?)\s*,?\s*(?P<square>not square|square)?$")


def parse_wipe(text: str, unit: Unit) -> WipeTyped:
    """Read a pattern from the tip's inner edge: ``120 to 210 of 342``, with ``square`` or ``not square`` behind it.

    Raises LengthError.
    """
    found = _WIPE.match(" ".join(text.strip().lower().split()))
    if found is None:
        raise LengthError("Type where it starts and ends and the tip’s width, as in 120 to 210 of 342, square.")
    start, end, tip = (parse_bench_length(found[name], unit) for name in ("start", "end", "tip"))
    square = None if found["square"] is None else found["square"] == "square"
    return WipeTyped(start, end, tip, square)
