"""A table with a heading, and its way to comma-separated text and back.

Sources of the form: RFC 4180; semicolons and decimal commas as spreadsheets of half the world write them (common
practice, no source).
"""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

from mockup.faults import Fault, FaultsError, refuse
from mockup.jobfile.report_csv import table_csv
from mockup.tables.columns import every_column, understood

MOST_ROWS = 5_000
MOST_COLUMNS = 200
LONGEST_TEXT = 2_000_000
"""Characters of a table; a larger one is refused before it is looked at."""
MOST_LINES = 20_000
"""Lines of a file, empty ones and comments among them."""
LINES_BEFORE_HEADINGS = 10
"""So far down the headings are looked for: there may be titles above them."""
_SEPARATOR = re.compile(r"sep=(.)\r?\n")
"""The first line of a file that says itself what parts its cells, as some spreadsheets write it."""
DELIMITERS = ("\t", ";", ",")
COMMENT = "#"


@dataclass(frozen=True, slots=True)
class Table:
    """A heading and rows of text, each as long as the heading; ``name`` is what the table is called, "" for nothing.

    ``first_row``: the number of the first row in the file it came from, counted from 1.
    """

    name: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    first_row: int = 2


def to_csv(table: Table) -> str:
    """The table as comma-separated text; no cell is taken for a formula by a spreadsheet."""
    return table_csv(table.headings, table.rows)


def from_csv(text: str, name: str = "") -> Table:
    """The table in comma-, semicolon- or tab-separated text; there may be titles above its heading.

    Raises FaultsError where there is none, or it is too large.
    """
    refuse([] if len(text) <= LONGEST_TEXT else [Fault("", f"At most {LONGEST_TEXT:,} characters in one table.")])
    text = text.removeprefix("\ufeff")
    # Counted before it is taken apart: empty lines cost as much as others.
    count = max(text.count("\n"), text.count("\r"))
    too_many = f"At most {MOST_LINES:,} lines in one table; these are {count:,}."
    refuse([] if count <= MOST_LINES else [Fault("", too_many)])
    said = _SEPARATOR.match(text)
    if said:
        text = "\n" + text[said.end() :]  # the numbers of the rows stay those of the file
    try:
        read = csv.reader(io.StringIO(text, newline=""), delimiter=said[1] if said else _delimiter(text), strict=True)
        # A cell that would be taken for a formula goes out with a quote before it.
        lines = [[cell.removeprefix("'") for cell in line] for line in read]
    except csv.Error as error:
        raise FaultsError([Fault("", f"Not a table: {error}.")]) from error
    return from_lines(lines, name)


def from_lines(lines: Sequence[Sequence[str]], name: str = "") -> Table:
    """A table of lines of cells; empty lines and lines of comment are passed over. Raises FaultsError."""
    holds_nul = any("\x00" in cell for line in lines for cell in line)
    refuse([Fault("", "A text in it holds a NUL. Take it out.")] if holds_nul else [])
    at = _heading_at(lines)
    if at is None:
        raise FaultsError([Fault("", "There is nothing in it.")])
    headings = tuple(cell.strip() for cell in lines[at])
    while headings and not headings[-1]:
        headings = headings[:-1]
    width = len(headings)
    refuse([] if width <= MOST_COLUMNS else [Fault("", f"At most {MOST_COLUMNS} columns.")])
    rows, found = [], []
    for number, line in enumerate(lines[at + 1 :], start=at + 2):
        cells = [cell.strip() for cell in line]
        if any(cells[width:]):
            found.append(Fault(f"row {number}", f"“{next(filter(None, cells[width:]))}” stands under no heading."))
        rows.append(tuple((cells + [""] * width)[:width]) if not _says_nothing(line) else ("",) * width)
    while rows and not any(rows[-1]):
        rows.pop()
    if len(rows) > MOST_ROWS:
        found.append(Fault("", f"At most {MOST_ROWS:,} rows at once; these are {len(rows):,}. Split the file."))
    refuse(found)
    return Table(name, headings, tuple(rows), at + 2)


def _heading_at(lines: Sequence[Sequence[str]]) -> int | None:
    """Which line is the heading: the first that names two columns of readings, else the first of several cells."""
    saying = [at for at, line in enumerate(lines[:MOST_LINES]) if not _says_nothing(line)][:LINES_BEFORE_HEADINGS]
    several = [at for at in saying if sum(bool(cell.strip()) for cell in lines[at]) > 1]
    named = [at for at in several if _names(lines[at]) > 1]
    return next(iter([*named, *several, *saying]), None)


def _names(line: Sequence[str]) -> int:
    """How many cells of a line are the names of columns [1]."""
    return sum(understood(cell).name in every_column() for cell in line if cell.strip())


def _says_nothing(line: Sequence[str]) -> bool:
    return not any(cell.strip() for cell in line) or line[0].lstrip().startswith(COMMENT)


def _delimiter(text: str) -> str:
    """What parts the cells: what leaves most names of columns in a line, else what the first line has most of."""
    lines = (line for line in text.splitlines() if line.strip() and not line.startswith(COMMENT))
    first = list(islice(lines, LINES_BEFORE_HEADINGS)) or [""]
    names = {one: max(_names(line.replace('"', "").split(one)) for line in first) for one in DELIMITERS}
    best = max(DELIMITERS, key=lambda one: names[one])
    return best if names[best] > 1 else max(reversed(DELIMITERS), key=first[0].count)
