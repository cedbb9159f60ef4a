"""A pasted table of angles and lifts, with any separators and headings."""

import re
from dataclasses import dataclass

from mockup.quantity.typed import LengthError
from mockup.quantity.value import MM_PER_INCH, MM_PER_THOU, Unit

MOST_HEADINGS = 6
LONGEST_PASTE = 60_000
_NUMBER = re.compile(r"^[+\-−]?(?:[0-9]+(?:\.[0-9]*)?|\.[0-9]+)(?:[eE][+\-−]?[0-9]{1,3})?$")
_PER_MM = {
    "mm": 1.0,
    "in": MM_PER_INCH,
    "inch": MM_PER_INCH,
    "inches": MM_PER_INCH,
    '"': MM_PER_INCH,
    "thou": MM_PER_THOU,
}
_UNIT = re.compile(r"(mm|inches|inch|thou|in|\")\)?\s*$", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Pasted:
    """Two columns: angles, shape (n,) [deg], and lifts, shape (n,) [mm].

    ``notes`` tell the person how the text was understood: headings skipped, decimal commas, the unit found.
    """

    angles: tuple[float, ...]
    lifts_mm: tuple[float, ...]
    notes: tuple[str, ...]


def parse_pasted(text: str, unit: Unit) -> Pasted:
    """Read a pasted table with one angle and one lift a line.

    Columns are separated by tabs, semicolons, commas or spaces. Decimal commas are accepted except with comma
    separators. Headings before the first row are skipped. A unit in a heading or behind a lift (mm, in, thou) overrides
    ``unit``. Raises LengthError naming the first line that cannot be read.
    """
    if len(text) > LONGEST_PASTE:
        raise LengthError("That is too much for one lobe: up to 60,000 characters.")
    lines = [(at, line.strip()) for at, line in enumerate(text.splitlines(), start=1) if line.strip()]
    if not lines:
        raise LengthError("Paste two columns: crank angle and lift, a line each.")
    comma = any("," in line and re.search(r"[\t;]|[0-9] +[+\-−0-9]", line) for _, line in lines)
    headings = 0
    while headings < len(lines) and _numbers(lines[headings][1], comma=comma) is None and headings < MOST_HEADINGS:
        headings += 1
    if headings == len(lines):
        raise LengthError("There are headings and no rows: paste the angles and lifts too.")
    per_mm, named = _unit_of([line for _, line in lines[:headings]], unit)
    rows = [_row(at, line, per_mm, comma=comma) for at, line in lines[headings:]]
    notes = [f"{headings} heading line{'s' if headings > 1 else ''} skipped"] if headings else []
    notes += ["decimal commas read as points"] if comma else []
    angles, lifts = zip(*rows, strict=True)
    return Pasted(angles, lifts, (*notes, f"lifts read as {named}"))


def _row(at: int, line: str, per_mm: float, *, comma: bool) -> tuple[float, float]:
    """Return a line's angle [deg] and lift [mm]; its own unit overrides the table's."""
    numbers = _numbers(line, comma=comma)
    if numbers is None:
        raise LengthError(f"Line {at}, “{line[:40]}”: not an angle and a lift.")
    own = _UNIT.search(line)
    return numbers[0], numbers[1] * (_PER_MM[own[1].lower()] if own else per_mm)


def _numbers(line: str, *, comma: bool) -> tuple[float, float] | None:
    bare = _UNIT.sub("", line).replace("°", " ").strip()
    if comma:
        parts = [part.replace(",", ".") for part in re.split(r"[\t;]+|\s+", bare) if part]
    else:
        parts = [part for part in re.split(r"[\t;,]+|\s+", bare) if part]
    if len(parts) != 2 or not all(_NUMBER.match(part) for part in parts):
        return None
    angle, lift = (float(part.replace("−", "-")) for part in parts)
    return angle, lift


def _unit_of(headings: list[str], unit: Unit) -> tuple[float, str]:
    for heading in reversed(headings):
        for word in re.split(r"[^a-z\"]+", heading.lower()):
            if word in _PER_MM:
                return _PER_MM[word], word
    return (MM_PER_INCH, "inches") if unit is Unit.INCH else (1.0, "mm")
