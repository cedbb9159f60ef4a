"""How typing becomes a clay thickness, a pushrod length or a wipe pattern."""

import re
from dataclasses import dataclass

from mockup.quantity.shown import format_both
from mockup.quantity.typed import LONGEST_TYPING, LengthError, parse_bench_length, parse_dimension
from mockup.quantity.value import Unit


@dataclass(frozen=True, slots=True)
class Checker:
    """The checking pushrod in hand: closed length [mm], None if not stated, and pitch [mm]."""

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
    """Read a trial: ``11.5 turns`` of the checker, or a length, ``7.375`` or ``187.3mm``.

    Raises LengthError.
    """
    found = _TURNS.match(text.strip().lower()) if len(text) <= LONGEST_TYPING else None
    if found is None:
        return PushrodTyped(parse_dimension(text, unit), 0.0, checker.pitch_mm)
    if checker.closed_mm is None:
        raise LengthError("Say the checker’s closed length above, then turns mean a length.")
    return PushrodTyped(checker.closed_mm, float(found["turns"]), checker.pitch_mm)


@dataclass(frozen=True, slots=True)
class WipeTyped:
    """A wipe pattern as typed [mm], and whether the rocker was square, None where not stated.

    ``half_lift_deg``: the rocker's angle to the valve at half lift [deg], None where not stated.
    """

    start_mm: float
    end_mm: float
    tip_mm: float
    square: bool | None
    half_lift_deg: float | None = None


LONGEST_WIPE = 100
SQUARE_DEG = 3.0
"""A rocker within this many degrees of 90 at half lift is square: common practice, no source."""
_WIPE = re.compile(
    r"^(?P<start>.+?)\s+to\s+(?P<end>.+?)\s+of\s+(?P<tip>.+?)\s*,?\s*"
    r"(?:(?P<square>not square|square)|(?P<deg>[0-9]+(?:\.[0-9]+)?)\s*(?:°|deg|degrees)(?: at half lift)?)?$"
)


def parse_wipe(text: str, unit: Unit) -> WipeTyped:
    """Read a pattern from the tip's inner edge: ``120 to 210 of 342``.

    ``square``, ``not square`` or the rocker's angle at half lift, ``88°``, may follow. Raises LengthError.
    """
    found = _WIPE.match(" ".join(text.strip().lower().split())) if len(text) <= LONGEST_WIPE else None
    if found is None:
        raise LengthError("Type where it starts and ends and the tip’s width, as in 120 to 210 of 342, square.")
    start, end, tip = (parse_bench_length(found[name], unit) for name in ("start", "end", "tip"))
    square = None if found["square"] is None else found["square"] == "square"
    if found["deg"] is None:
        return WipeTyped(start, end, tip, square)
    angle = float(found["deg"])
    return WipeTyped(start, end, tip, abs(angle - 90) <= SQUARE_DEG, angle)


@dataclass(frozen=True, slots=True)
class ClayTyped:
    """A clay thickness as typed [mm], whether the valve touched it, and where."""

    thickness_mm: float
    touched: bool
    spot: str


SPOTS = ("middle", "wall", "plug", "front", "rear", "inner", "outer")
"""Words for where a thickness was taken: toward the bore wall, the plug, the front or rear of the engine."""
_CLAY = re.compile(r"^(?P<over>>|over|more than)?\s*(?P<length>[^a-z]*(?:mm|in|thou)?)(?:\s+(?P<spot>[a-z]+))?$")


NO_PRINT = ("no print", "no mark")
"""What is typed where the clay shows no imprint."""
HAIR_MM = 0.005
"""Two typings of one thickness may differ by this much through rounding."""


def is_no_print(text: str) -> bool:
    """Whether typing says that the clay shows no imprint."""
    return " ".join(text.strip().lower().split()) in NO_PRINT


def parse_clay(text: str, unit: Unit, laid_mm: float = 0.0) -> ClayTyped:
    """Read a thickness: ``96``, ``96 wall`` with a place, ``over 200`` where not touched.

    ``laid_mm``: how thick the clay was laid, scalar [mm], 0 where not stated. ``no print`` means over that, and no
    slice may be thicker. Raises LengthError.
    """
    if is_no_print(text):
        if not laid_mm:
            raise LengthError(
                "How thick was the clay laid? Say it once at the mock-up, or type over and its thickness."
            )
        return ClayTyped(laid_mm, touched=False, spot="")
    typed = _thickness(text, unit)
    if laid_mm and typed.thickness_mm > laid_mm + HAIR_MM:
        laid = format_both(laid_mm, unit)
        raise LengthError(f"The clay was laid {laid} thick, so no slice can be thicker. Read it again.")
    return typed


def _thickness(text: str, unit: Unit) -> ClayTyped:
    found = _CLAY.match(" ".join(text.strip().lower().split())) if len(text) <= LONGEST_TYPING else None
    if found is None or (found["spot"] and found["spot"] not in SPOTS):
        if found is not None and found["length"].strip():
            raise LengthError(
                f"“{found['spot']}” is not a place on the imprint. Use one of: {', '.join(SPOTS)}; or leave it out."
            )
        raise LengthError("Type a thickness as in 96, 96 wall, or over 200 where the valve did not touch.")
    return ClayTyped(parse_bench_length(found["length"], unit), not found["over"], found["spot"] or "")
