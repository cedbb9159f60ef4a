"""A table with a heading, to comma-separated text and back.

Sources of the format: RFC 4180; semicolons and decimal commas as many spreadsheets write them (common practice, no
source).
"""

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.formats.columns import every_column, understood
from mockup.formats.report_csv import table_csv

MOST_ROWS = 5_000
MOST_COLUMNS = 200
LONGEST_TEXT = 2_000_000
"""Longest table [characters]; a longer one is refused unread."""
MOST_LINES = 20_000
"""Most lines of a file, including empty ones and comments."""
LINES_BEFORE_HEADINGS = 10
"""The headings are looked for within this many lines, since titles may precede them."""
_SEPARATOR = re.compile(r"sep=(.)\r?\n")
"""A first line that names the cell separator, as some spreadsheets write it."""
DELIMITERS = ("\t", ";", ",")
COMMENT = "#"


@dataclass(frozen=True, slots=True)
class Table:
    """A heading and rows of text of equal length; ``name`` is the table's name or "".

    ``first_row``: the number of the first row in its file, counted from 1.
    """

    name: str
    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    first_row: int = 2


def to_csv(table: Table) -> str:
    """Return the table as comma-separated text; a spreadsheet takes no cell for a formula."""
    return table_csv(table.headings, table.rows)


def from_csv(text: str, name: str = "") -> Table:
    """Return the table in comma-, semicolon- or tab-separated text; titles may come first.

    Raises FaultsError for an empty or too large table.
    """
    refuse([] if len(text) <= LONGEST_TEXT else [Fault("", f"At most {LONGEST_TEXT:,} characters in one table.")])
    text = text.removeprefix("\ufeff")
    # Counted before parsing: empty lines cost as much as others.
    count = max(text.count("\n"), text.count("\r"))
    too_many = f"At most {MOST_LINES:,} lines in one table; these are {count:,}."
    refuse([] if count <= MOST_LINES else [Fault("", too_many)])
    said = _SEPARATOR.match(text)
    if said:
        text = "\n" + text[said.end() :]  # row numbers stay those of the file
    try:
        read = csv.reader(io.StringIO(text, newline=""), delimiter=said[1] if said else _delimiter(text), strict=True)
        # Cells that look like formulas are written with a leading quote.
        lines = [[cell.removeprefix("'") for cell in line] for line in read]
    except csv.Error as error:
        raise FaultsError([Fault("", f"Not a table: {error}.")]) from error
    return from_lines(lines, name)


def from_lines(lines: Sequence[Sequence[str]], name: str = "") -> Table:
    """Return a table from lines of cells, skipping empty lines and comments. Raises FaultsError."""
    holds_nul = any("\x00" in cell for line in lines for cell in line)
    refuse([Fault("", "A text in it contains a NUL character. Remove it.")] if holds_nul else [])
    at = _heading_at(lines)
    if at is None:
        raise FaultsError([Fault("", "The file is empty.")])
    headings = tuple(cell.strip() for cell in lines[at])
    while headings and not headings[-1]:
        headings = headings[:-1]
    width = len(headings)
    refuse([] if width <= MOST_COLUMNS else [Fault("", f"At most {MOST_COLUMNS} columns.")])
    rows, found = [], []
    for number, line in enumerate(lines[at + 1 :], start=at + 2):
        cells = [cell.strip() for cell in line]
        if any(cells[width:]):
            found.append(Fault(f"row {number}", f"“{next(filter(None, cells[width:]))}” has no heading above it."))
        rows.append(tuple((cells + [""] * width)[:width]) if not _says_nothing(line) else ("",) * width)
    while rows and not any(rows[-1]):
        rows.pop()
    if len(rows) > MOST_ROWS:
        found.append(Fault("", f"At most {MOST_ROWS:,} rows at once; these are {len(rows):,}. Split the file."))
    refuse(found)
    return Table(name, headings, tuple(rows), at + 2)


def _heading_at(lines: Sequence[Sequence[str]]) -> int | None:
    """Return the index of the heading line, or None.

    It is the first that names two columns of readings, else the first with several cells.
    """
    saying = [at for at, line in enumerate(lines[:MOST_LINES]) if not _says_nothing(line)][:LINES_BEFORE_HEADINGS]
    several = [at for at in saying if sum(bool(cell.strip()) for cell in lines[at]) > 1]
    named = [at for at in several if _names(lines[at]) > 1]
    return next(iter([*named, *several, *saying]), None)


def _names(line: Sequence[str]) -> int:
    """Return how many cells of a line are column names [1]."""
    return sum(understood(cell).name in every_column() for cell in line if cell.strip())


def _says_nothing(line: Sequence[str]) -> bool:
    return not any(cell.strip() for cell in line) or line[0].lstrip().startswith(COMMENT)


def _delimiter(text: str) -> str:
    """Return the cell separator: what gives most column names, else the most frequent one."""
    lines = (line for line in text.splitlines() if line.strip() and not line.startswith(COMMENT))
    first = list(islice(lines, LINES_BEFORE_HEADINGS)) or [""]
    names = {one: max(_names(line.replace('"', "").split(one)) for line in first) for one in DELIMITERS}
    best = max(DELIMITERS, key=lambda one: names[one])
    return best if names[best] > 1 else max(reversed(DELIMITERS), key=first[0].count)
