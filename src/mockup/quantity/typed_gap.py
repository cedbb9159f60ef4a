"""How typing becomes a gap: as a length, or by a feeler that goes and one that does not."""

import re
from dataclasses import dataclass

from mockup.quantity.shown import format_bench, format_both, mm_text
from mockup.quantity.typed import LengthError, parse_bench_length, parse_fine_length
from mockup.quantity.value import Unit


@dataclass(frozen=True, slots=True)
class GapTyped:
    """A gap as typed, and half the step of its feelers, 0 without feelers [mm].

    A deck clearance is a gap with a sign, positive in the hole.
    """

    mm: float
    half_width_mm: float = 0.0


STEP_TOO_WIDE = f"The feeler that goes and the one that does not differ by at most {mm_text(2)}."
_FEELERS = re.compile(r"^goes\s+(?P<goes>.+?)\s*,?\s*not\s+(?P<stops>.+)$")


def parse_feelers(text: str, unit: Unit) -> GapTyped | None:
    """Read ``goes 11 not 12``; None where the text does not begin so. Raises LengthError."""
    cleaned = " ".join(text.strip().lower().split())
    if not cleaned.startswith("goes"):
        return None
    found = _FEELERS.match(cleaned)
    if found is None:
        raise LengthError("Type both feelers, the one that goes and the one that does not, as in goes 11 not 12.")
    least, most = parse_fine_length(found["goes"], unit), parse_fine_length(found["stops"], unit)
    if least >= most:
        raise LengthError("The feeler that goes is the thinner one, as in goes 11 not 12.")
    return GapTyped((least + most) / 2, (most - least) / 2)


def parse_gap(text: str, unit: Unit) -> GapTyped:
    """Read ``94``, or by feelers ``goes 93 not 95``, as a gap >= 0 [mm]. Raises LengthError."""
    return parse_feelers(text, unit) or GapTyped(parse_bench_length(text, unit))


def split_before_gap(text: str) -> tuple[str, str]:
    """Split an angle and a gap: ``9 ATDC 94``, ``9 ATDC goes 93 not 95``.

    Returns the words before the gap, and the gap. Raises LengthError where one of them is missing.
    """
    stripped = text.strip()
    at = stripped.lower().find("goes")
    words, gap = (stripped[:at].strip(), stripped[at:]) if at >= 0 else stripped.rpartition(" ")[::2]
    if not words:
        raise LengthError("Type the angle and then the reading, as in 9 ATDC 94.")
    return words, gap


def format_gap(typed: GapTyped, unit: Unit) -> str:
    """Return a gap in both units, with half the step of its feelers."""
    step = f" ±{format_bench(typed.half_width_mm, unit)}" if typed.half_width_mm else ""
    return format_both(typed.mm, unit) + step
