"""A maker's chart of separate barrels: the base shims for each deck height.

Builders follow it, then measure. Its decks are without shims, as a barrel's spigot is measured.
"""

import itertools
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.quantity.fields import DeckMm, Mm, Most, Within, outside
from mockup.quantity.shown import format_exact, mm_range, mm_text
from mockup.quantity.typed import LengthError, parse_bench_length
from mockup.quantity.typed_deck import parse_deck
from mockup.quantity.value import DeckSign, Unit

DEEPEST_MM, MOST_SHIMS_MM, MOST_ROWS = 50.0, 10.0, 60
TOUCHING_MM = 1e-6
"""Ranges that share an end within this do not overlap."""
_DECK = Within(-DEEPEST_MM, DEEPEST_MM, f"A deck within {mm_text(DEEPEST_MM)}.")


@dataclass(frozen=True, slots=True, kw_only=True)
class MakersRow:
    """Decks without shims from ``from_mm`` to ``to_mm``, positive in the hole, and their shims.

    ``shims_mm``: the shims together, 0 to 10. All in [mm]. Raises FaultsError.
    """

    from_mm: Annotated[DeckMm, _DECK]
    to_mm: Annotated[DeckMm, _DECK]
    shims_mm: Annotated[Mm, Within(0, MOST_SHIMS_MM, f"Shims of {mm_range(0, MOST_SHIMS_MM)}.")]

    def __post_init__(self) -> None:
        found = outside(self)
        if not found and self.to_mm < self.from_mm:
            found.append(Fault("to_mm", "The first deck of a row is the higher crown: less down, or more out."))
        refuse(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class MakersChart:
    """The rows of a maker's chart. Raises FaultsError where two of them overlap and differ."""

    rows: Annotated[tuple[MakersRow, ...], Most(MOST_ROWS)]

    def __post_init__(self) -> None:
        in_order = sorted(self.rows, key=lambda row: (row.from_mm, row.to_mm))
        refuse(
            Fault("rows", f"Two rows give different shims for a deck of {mm_text(after.from_mm)}.")
            for before, after in itertools.pairwise(in_order)
            if after.from_mm < before.to_mm - TOUCHING_MM and after.shims_mm != before.shims_mm
        )

    def shims_mm(self, deck_mm: float) -> float | None:
        """Return the shims for a deck without shims [mm]; None off the chart.

        Between two rows the nearer one counts; where two meet, the one that leaves the crown further down.
        """
        if not self.rows or not self._low_mm <= deck_mm <= self._high_mm:
            return None

        def off(row: MakersRow) -> float:
            return round(max(row.from_mm - deck_mm, deck_mm - row.to_mm, 0.0), 6)

        return min(self.rows, key=lambda row: (off(row), -row.shims_mm)).shims_mm

    @property
    def _low_mm(self) -> float:
        return min(row.from_mm for row in self.rows) - TOUCHING_MM

    @property
    def _high_mm(self) -> float:
        return max(row.to_mm for row in self.rows) + TOUCHING_MM


_COLUMNS = re.compile(r"\s*[\t;:=|]\s*|\s{2,}")
_RANGE = re.compile(r"\bto\b|\s[-–—]\s|–|—")
_WAY = re.compile(r"\b(down|out|below|above)\s*$", re.IGNORECASE)
HOW = "Type a row as deck and shims with a colon between: {deck}: {shims}."
"""How a row is typed; the example is in the build's unit."""
EXAMPLE = {
    Unit.INCH: {"deck": "8 down to 10 down", "shims": "20"},
    Unit.MILLIMETRE: {"deck": "0.20 down to 0.25 down", "shims": "0.50"},
}


def parse_makers_chart(text: str, unit: Unit, sign: DeckSign) -> MakersChart:
    """Read a chart typed or pasted, a row a line: ``0.20 down to 0.25 down: 0.50 + 0.25``.

    Columns may be parted by a tab, two spaces, or one of ``: ; = |``. A first line without a figure is a heading.
    Raises FaultsError at ``rows``, with the number of the line.
    """
    lines = [(number, line.strip()) for number, line in enumerate(text.splitlines(), start=1) if line.strip()]
    if len(lines) > MOST_ROWS + 1:
        refuse([Fault("rows", f"At most {MOST_ROWS} rows.")])
    rows, faults = [], []
    for number, line in lines:
        try:
            rows.append(_row(line, unit, sign))
        except LengthError as error:
            is_heading = (number, line) == lines[0] and not any(character.isdigit() for character in line)
            faults += [] if is_heading else [Fault("rows", f"Line {number}: {error}")]
        except FaultsError as error:
            faults += [Fault("rows", f"Line {number}: {fault.message}") for fault in error.faults]
    refuse(faults or ([] if rows else [Fault("rows", HOW.format(**EXAMPLE[unit]))]))
    return MakersChart(rows=tuple(rows))


def _row(line: str, unit: Unit, sign: DeckSign) -> MakersRow:
    parts = [part for part in _COLUMNS.split(line) if part.strip()]
    if len(parts) < 2:
        raise LengthError(HOW.format(**EXAMPLE[unit]))
    ends = list(_ends(" to ".join(parts[:-1])))
    decks = sorted(parse_deck(end, unit, sign) for end in ends)
    shims = parts[-1].strip().lower()
    pack = 0.0 if shims in ("none", "no shim") else sum(parse_bench_length(one, unit) for one in shims.split("+"))
    return MakersRow(from_mm=decks[0], to_mm=decks[-1], shims_mm=round(pack, 6))


def _ends(deck: str) -> Iterator[str]:
    """Yield both ends of a range of decks; a direction at its end holds for both."""
    ends = [end.strip() for end in _RANGE.split(deck) if end.strip()]
    if len(ends) > 2:
        raise LengthError("A row has one deck or two, its ends.")
    way = _WAY.search(ends[-1])
    for end in ends:
        bare = way and not _WAY.search(end) and end.lower() not in ("zero", "level", "flush")
        yield f"{end} {way[1]}" if way and bare else end


def format_makers_chart(chart: MakersChart, unit: Unit) -> str:
    """Return a chart as text, which ``parse_makers_chart`` reads again to the same rows."""
    return "\n".join(_row_text(row, unit) for row in chart.rows)


def _row_text(row: MakersRow, unit: Unit) -> str:
    ends = dict.fromkeys((row.from_mm, row.to_mm))
    decks = " to ".join(_deck_text(end, unit) for end in ends)
    return f"{decks}: {format_exact(row.shims_mm, unit) if row.shims_mm else 'none'}"


def _deck_text(mm: float, unit: Unit) -> str:
    return f"{format_exact(abs(mm), unit)} {'down' if mm > 0 else 'out'}" if mm else "zero"
