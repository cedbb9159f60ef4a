"""A workbook of a report: readings, inputs, verdict, and the arithmetic that fits in cells as live formulas.

Whoever gets it can follow ratio, quench and every correction, change a figure and see what moves. Source of the form:
ISO/IEC 29500 (Office Open XML), written by XlsxWriter, read by openpyxl.
"""

import io
import zipfile
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from openpyxl import load_workbook
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE
from openpyxl.utils.exceptions import InvalidFileException
from xlsxwriter import Workbook

from mockup.faults import Fault, FaultsError, refuse
from mockup.reading_kinds import READING_KINDS
from mockup.report import Report
from mockup.tables.arithmetic import Formula, Sheet, sheets_of
from mockup.tables.columns import held_by, understood
from mockup.tables.readings_out import reading_tables
from mockup.tables.table import MOST_COLUMNS, MOST_ROWS, Table, from_lines

LARGEST = 5_000_000
"""Bytes of a workbook; a larger one is not opened."""
LARGEST_UNPACKED = 12_000_000
LARGEST_BESIDE = 2_500_000
"""Bytes of all that is no sheet, unpacked: texts and styles are read whole before the first cell is."""
MOST_CELLS = 100_000
"""Cells of a workbook that say something; 5,000 rows of 20."""
MOST_LINES = 20_000
MOST_PARTS = 500
MOST_SHEETS = 60
NARROWEST, WIDEST = 9, 60
LONGEST_NAME = 31
"""Letters of the name of a sheet."""


def to_workbook(report: Report) -> bytes:
    """The workbook of a report as the bytes of an xlsx file; lengths in the unit the build is kept in.

    Every formula comes with what it works out to, for viewers that work nothing out.
    """
    out = io.BytesIO()
    # What somebody typed is never a formula or a link, even if it begins with = or http.
    plain = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    with Workbook(out, plain) as book:
        book.set_properties({"title": _clean(report.job.name), "author": "Astute Mole"})
        for sheet in [*sheets_of(report), *(_as_sheet(table) for table in reading_tables(report.job))]:
            _write(book, sheet)
    return out.getvalue()


def _as_sheet(table: Table) -> Sheet:
    kind = next(kind for kind in READING_KINDS if kind.listed == table.name)
    held = held_by(kind)
    numbers = []
    for heading in table.headings:
        field = held.get(understood(heading).name)
        is_number = field is not None and field.holds in (int, float)
        numbers.append(is_number or understood(heading).name in ("cylinder", "valve"))
    rows = [
        [_number(cell) if is_one else cell for cell, is_one in zip(row, numbers, strict=True)] for row in table.rows
    ]
    return Sheet(table.name, [list(table.headings), *rows], headings=(1,))


def _number(cell: str) -> Any:
    """A cell as a number where that is all it says, in no more digits than a spreadsheet keeps."""
    try:
        number = float(cell)
    except ValueError:
        return cell
    return number if float(f"{number:.15g}") == number else cell


def _write(book: Workbook, sheet: Sheet) -> None:
    where = book.add_worksheet(sheet.name[:LONGEST_NAME])
    widths: dict[int, int] = {}
    for at, line in enumerate(sheet.rows):
        for column, value in enumerate(line):
            if value is None or value == "":
                continue
            look: dict[str, Any] = {"bold": True} if at + 1 in sheet.headings else {}
            if isinstance(value, Formula):
                look["num_format"] = value.shown
                where.write_formula(at, column, f"={value.text}", book.add_format(look), value.value)
                continue
            text = _clean(value) if isinstance(value, str) else value
            (where.write_string if isinstance(text, str) else where.write_number)(
                at, column, text, book.add_format(look)
            )
            widths[column] = max(widths.get(column, NARROWEST), len(str(text)) + 1)
    for column, width in widths.items():
        where.set_column(column, column, min(width, WIDEST))
    if sheet.headings == (1,):
        where.freeze_panes(1, 0)


def _clean(text: str) -> str:
    return str(ILLEGAL_CHARACTERS_RE.sub("", text))


def from_workbook(content: bytes) -> list[Table]:
    """The tables of a workbook: a sheet each, those of the arithmetic left out. Raises FaultsError."""
    refuse([] if len(content) <= LARGEST else [Fault("", f"At most {LARGEST:,} bytes in one workbook.")])
    try:
        _refuse_a_bomb(content)
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        ours = set(Sheet.ARITHMETIC)
        names = [name for name in book.sheetnames if name not in ours][:MOST_SHEETS]
        left = _Left(MOST_LINES, MOST_CELLS)
        found = [(name, _lines(book[name], left)) for name in names]
        book.close()
    except FaultsError:
        raise
    except (zipfile.BadZipFile, InvalidFileException, KeyError, ValueError, TypeError, OSError, SyntaxError) as error:
        # An XML that cannot be parsed is a SyntaxError to the standard library.
        raise FaultsError([Fault("", f"Not a workbook that can be read (xlsx): {error}.")]) from error
    return [from_lines(lines, name) for name, lines in found if any(any(line) for line in lines)]


def _refuse_a_bomb(content: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(content)) as packed:
        parts = packed.infolist()
    beside = sum(part.file_size for part in parts if "/worksheets/" not in part.filename)
    too_large = len(parts) > MOST_PARTS or sum(part.file_size for part in parts) > LARGEST_UNPACKED
    too_large = too_large or beside > LARGEST_BESIDE
    refuse([Fault("", "The workbook is too large once it is unpacked.")] if too_large else [])


@dataclass(slots=True)
class _Left:
    """How many lines and cells of a workbook may still be read [1]."""

    lines: int
    cells: int


def _lines(sheet: Any, left: _Left) -> list[list[str]]:
    """The lines of a sheet as text. Raises FaultsError as soon as the workbook is too much."""
    lines = []
    for row in sheet.iter_rows(max_row=MOST_ROWS + 50, max_col=MOST_COLUMNS + 1, values_only=True):
        said = len(row)
        while said and row[said - 1] is None:
            said -= 1
        left.lines -= 1
        left.cells -= said
        if left.lines < 0 or left.cells < 0:
            refuse([Fault("", f"At most {MOST_CELLS:,} cells in {MOST_LINES:,} rows in one workbook. Split it.")])
        lines.append([_text(value) for value in row[:said]])
    return lines


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return repr(int(value)) if value.is_integer() else repr(value)
    if isinstance(value, datetime | date):
        return value.isoformat()
    return str(value)
