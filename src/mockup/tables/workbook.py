"""A workbook of a report: readings, inputs, verdict, and the arithmetic that fits in cells as live formulas.

Whoever gets it can follow ratio, quench and every correction, change a figure and see what moves. Source of the form:
ISO/IEC 29500 (Office Open XML), written and read by openpyxl.
"""

import io
import zipfile
from datetime import date, datetime
from typing import Any

from openpyxl import Workbook, load_workbook
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE, Cell
from openpyxl.styles import Font
from openpyxl.utils.exceptions import InvalidFileException
from openpyxl.worksheet.worksheet import Worksheet

from mockup.faults import Fault, FaultsError, refuse
from mockup.reading_kinds import READING_KINDS
from mockup.report import Report
from mockup.tables.arithmetic import Formula, Sheet, sheets_of
from mockup.tables.columns import held_by, understood
from mockup.tables.readings_out import reading_tables
from mockup.tables.table import MOST_COLUMNS, MOST_ROWS, Table, from_lines

LARGEST = 5_000_000
"""Bytes of a workbook; a larger one is not opened."""
LARGEST_UNPACKED = 60_000_000
MOST_PARTS = 500
MOST_SHEETS = 60
NARROWEST, WIDEST = 9, 60


def to_workbook(report: Report) -> bytes:
    """The workbook of a report as the bytes of an xlsx file; lengths in the unit the build is kept in."""
    book = Workbook()
    book.remove(book.active)
    book.properties.title, book.properties.creator = _clean(report.job.name), "Astute Mole"
    for sheet in [*sheets_of(report), *(_as_sheet(table) for table in reading_tables(report.job))]:
        _write(book.create_sheet(sheet.name[:31]), sheet)
    out = io.BytesIO()
    book.save(out)
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


def _write(where: Worksheet, sheet: Sheet) -> None:
    widths: dict[str, int] = {}
    for at, line in enumerate(sheet.rows, start=1):
        for column, value in enumerate(line, start=1):
            if value is None or value == "":
                continue
            cell: Any = where.cell(at, column)
            _fill(cell, value)
            if at in sheet.headings:
                cell.font = Font(bold=True)
            if not isinstance(value, Formula):
                widths[cell.column_letter] = max(widths.get(cell.column_letter, NARROWEST), len(str(value)) + 1)
    for letter, width in widths.items():
        where.column_dimensions[letter].width = min(width, WIDEST)
    if sheet.headings == (1,):
        where.freeze_panes = "A2"


def _fill(cell: Cell, value: Any) -> None:
    if isinstance(value, Formula):
        cell.value = f"={value.text}"
        cell.number_format = value.shown
    elif isinstance(value, str):
        cell.value = _clean(value)
        # What somebody typed is never a formula, whatever it begins with.
        cell.data_type = "s"
    else:
        cell.value = value


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
        found = [(name, _lines(book[name])) for name in names]
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
    too_large = len(parts) > MOST_PARTS or sum(part.file_size for part in parts) > LARGEST_UNPACKED
    refuse([Fault("", "The workbook is too large once it is unpacked.")] if too_large else [])


def _lines(sheet: Any) -> list[list[str]]:
    rows = sheet.iter_rows(max_row=MOST_ROWS + 50, max_col=MOST_COLUMNS + 1, values_only=True)
    return [[_text(value) for value in row] for row in rows]


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
