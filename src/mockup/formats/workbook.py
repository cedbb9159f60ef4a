"""A workbook of a report: readings, inputs, verdict, and formulas that fit in cells.

A reader can follow ratio, quench and every correction, change a figure and see the effect. Source of the format:
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

from mockup import PROGRAM
from mockup.base.faults import Fault, FaultsError, refuse
from mockup.formats.columns import held_by, understood
from mockup.formats.readings_out import reading_tables
from mockup.formats.table import MOST_COLUMNS, MOST_ROWS, Table, from_lines
from mockup.formats.workbook_formulas import Formula, Sheet, workbook_sheets
from mockup.readings.kinds import READING_KINDS
from mockup.report import Report

LARGEST = 5_000_000
"""Largest workbook that is opened [bytes]."""
LARGEST_UNPACKED = 12_000_000
LARGEST_BESIDE = 2_500_000
"""Most unpacked bytes besides sheets: texts and styles are read whole before the first cell."""
MOST_CELLS = 100_000
"""Most non-empty cells of a workbook; 5,000 rows of 20."""
MOST_LINES = 20_000
MOST_PARTS = 500
MOST_SHEETS = 60
NARROWEST, WIDEST = 9, 60
LONGEST_NAME = 31
"""Longest name of a sheet [characters]."""


def to_workbook(report: Report) -> bytes:
    """Return the workbook of a report as the bytes of an xlsx file; lengths in the build's unit.

    Every formula carries its result, for viewers that compute nothing.
    """
    out = io.BytesIO()
    # Typed text is never a formula or a link, even if it begins with = or http.
    plain = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
    with Workbook(out, plain) as book:
        book.set_properties({"title": _clean(report.job.name), "author": PROGRAM})
        for sheet in [*workbook_sheets(report), *(_as_sheet(table) for table in reading_tables(report.job))]:
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
    """Return a cell as a number if it is only that, with a spreadsheet's digits."""
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
    """Return the tables of a workbook, one for each sheet except the computed ones.

    Raises FaultsError.
    """
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
        # The standard library reports invalid XML as a SyntaxError.
        raise FaultsError([Fault("", f"This workbook (xlsx) cannot be read: {error}.")]) from error
    return [from_lines(lines, name) for name, lines in found if any(any(line) for line in lines)]


def _refuse_a_bomb(content: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(content)) as packed:
        parts = packed.infolist()
    beside = sum(part.file_size for part in parts if "/worksheets/" not in part.filename)
    too_large = len(parts) > MOST_PARTS or sum(part.file_size for part in parts) > LARGEST_UNPACKED
    too_large = too_large or beside > LARGEST_BESIDE
    refuse([Fault("", "The workbook is too large when unpacked.")] if too_large else [])


@dataclass(slots=True)
class _Left:
    """How many lines and cells of a workbook may still be read [1]."""

    lines: int
    cells: int


def _lines(sheet: Any, left: _Left) -> list[list[str]]:
    """Return the lines of a sheet as text.

    Raises FaultsError as soon as the workbook exceeds a limit.
    """
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
