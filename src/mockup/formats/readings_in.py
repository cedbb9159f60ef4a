"""Readings from a table: what was understood of each row, and what was not."""

import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from enum import StrEnum
from typing import Any

from pydantic import ValidationError

from mockup.base.faults import Fault
from mockup.engine.valves import Side
from mockup.formats.columns import (
    KIND,
    OF_PLACE,
    OF_RECORD,
    PLACE,
    UNITS,
    VALUE,
    Column,
    columns_of,
    has_valve,
    held_by,
    kind_named,
    kind_of_columns,
    lacking,
    main_field,
    understood,
)
from mockup.formats.job_read import faults_of
from mockup.formats.job_shape import VERSION, shape_of
from mockup.formats.table import Table
from mockup.job import Job, misplaced, points_at_nothing
from mockup.quantity.fields import FieldInfo, Measure
from mockup.readings.kinds import READING_KINDS, ReadingKind
from mockup.readings.record import Reading

YES, NO = ("yes", "true", "1", "x", "y"), ("no", "false", "0", "n", "-")
SIDES = {"i": Side.INTAKE, "in": Side.INTAKE, "inlet": Side.INTAKE, "e": Side.EXHAUST, "ex": Side.EXHAUST}
LETTERS = {"a": 1, "b": 2, "c": 3}


@dataclass(frozen=True, slots=True)
class Row:
    """One row of a table: its number in the file, and its reading or what is wrong with it."""

    number: int
    kind: ReadingKind | None
    reading: Reading | None
    faults: tuple[Fault, ...]
    table: str = ""


@dataclass(frozen=True, slots=True)
class Understood:
    """The result of reading some tables: their rows, and what is wrong with them as a whole."""

    rows: tuple[Row, ...]
    faults: tuple[Fault, ...]

    @property
    def readings(self) -> list[Reading]:
        """The readings, in the order of the rows."""
        return [row.reading for row in self.rows if row.reading]

    @property
    def is_whole(self) -> bool:
        """Whether there is something to import, and nothing wrong with any of it."""
        return bool(self.rows) and not self.faults and not any(row.faults for row in self.rows)


def readings_in(tables: Iterable[Table], job: Job) -> Understood:
    """Return the readings in tables, for the engine and the mock-ups of a job.

    Lengths are in the unit of their heading or cell. Nothing is guessed: what is not understood is a fault with row
    number and column heading.
    """
    rows: list[Row] = []
    faults: list[Fault] = []
    for table in tables:
        columns = [understood(heading) for heading in table.headings]
        names = [column.name for column in columns]
        # The clearance of a deck and of a valve, or a gap in words and as a length, are two columns each. Two columns
        # of the same heading are a fault; a row that fills two of the same name is refused alone.
        plain = [" ".join(column.heading.lower().split()) for column in columns]
        twice = sorted({heading for heading in plain if heading and plain.count(heading) > 1})
        if twice:
            faults.append(_of_table(table, f"Two columns are called “{twice[0]}”. Remove one."))
            continue
        of_all = kind_named(table.name) or kind_of_columns(columns)
        if KIND not in names and of_all is None:
            faults.append(_of_table(table, _what_kind(columns)))
            continue
        unknown = [column.heading for column in columns if column.heading and not _known(column)]
        faults += [_of_table(table, f"No reading has a column “{heading}”.") for heading in unknown]
        rows += _rows(table, columns, of_all, job)
    return Understood(tuple(rows), tuple(faults))


def _of_table(table: Table, words: str) -> Fault:
    return Fault(table.name, words)


def _what_kind(columns: list[Column]) -> str:
    said = ", ".join(column.heading for column in columns if column.heading)
    return (
        "The kind of reading cannot be told from the headings"
        f" ({said}). Add a column “kind” with deck, clay, sweep or another, or give the table that name."
    )


def _known(column: Column) -> bool:
    return any(column.name in columns_of(kind) for kind in READING_KINDS)


def _rows(table: Table, columns: list[Column], of_all: ReadingKind | None, job: Job) -> Iterator[Row]:
    for number, cells in enumerate(table.rows, start=table.first_row):
        said = {column: cell for column, cell in zip(columns, cells, strict=True) if cell}
        if not said:
            continue
        kind, wrong = _kind(said, of_all)
        if kind is None:
            yield Row(number, None, None, (wrong,), table.name)
            continue
        reading, faults = _reading(kind, said, job)
        yield Row(number, kind, reading, tuple(faults), table.name)


def _kind(said: Mapping[Column, str], of_all: ReadingKind | None) -> tuple[ReadingKind | None, Fault]:
    word = next((cell for column, cell in said.items() if column.name == KIND), "")
    kind = kind_named(word) if word else of_all
    words = f"There is no kind of reading called “{word}”." if word else "The kind of reading is missing."
    return kind, Fault(KIND, words)


class _WrongCellError(ValueError):
    """A cell that is not understood; its message says why."""


def _reading(kind: ReadingKind, said: Mapping[Column, str], job: Job) -> tuple[Reading | None, list[Fault]]:
    raw: dict[str, Any] = {}
    faults: list[Fault] = []
    names = [column.name for column in said]
    for column, cell in said.items():
        try:
            _refuse_twice(column, cell, names)
            raw |= _field(kind, column, cell)
        except _WrongCellError as error:
            faults.append(Fault(column.heading, str(error)))
    missing = lacking(kind, {_field_name(column, kind) for column in said})
    faults += [Fault(name, f"{kind.words.capitalize()} requires it.") for name in missing if not faults]
    if faults:
        return None, faults
    record = {OF_RECORD[name]: raw.pop(name) for name in OF_RECORD if name in raw}
    raw |= {"record": record} if record else {}
    letters = {mockup.key for mockup in job.mockups}
    if str(raw.get("mockup", "")).upper() in letters - {raw.get("mockup")}:
        raw["mockup"] = str(raw["mockup"]).upper()
    try:
        shape = shape_of(kind.core).model_validate(raw, context={"unit": job.unit, "version": VERSION})
    except ValidationError as error:
        headings = {_field_name(column, kind).replace(" ", "_"): column.heading for column in said}
        return None, [
            Fault(headings.get(one.path, one.path.replace("_", " ")), one.message) for one in faults_of(error)
        ]
    made: Reading = shape.core()
    faults = misplaced(made, job.engine) + points_at_nothing(made, letters, job.instruments)
    return (None if faults else made), faults


def _refuse_twice(column: Column, cell: str, names: list[str]) -> None:
    if names.count(column.name) > 1:
        raise _WrongCellError(f"“{cell}”: there are two columns “{column.name}”.")


def _field(kind: ReadingKind, column: Column, cell: str) -> dict[str, Any]:
    """Return a cell as the job file's field."""
    name = _field_name(column, kind)
    if name not in columns_of(kind):
        raise _WrongCellError(f"“{cell}”: {kind.words} has no such column.")
    held = held_by(kind).get(name)
    if held:
        return {held.plain_name: _value(held, cell, column)}
    if name == KIND:
        return {}
    if name == PLACE:
        return _place(cell, kind)
    if name in OF_PLACE:
        return {name: _side(cell) if name == "side" else _whole(cell)}
    return {name: cell}


def _field_name(column: Column, kind: ReadingKind) -> str:
    return main_field(kind) if column.name == VALUE else column.name


def _value(held: FieldInfo, cell: str, column: Column) -> Any:
    if held.measure in (Measure.LENGTH, Measure.DECK):
        return _length(held, cell, column)
    if held.holds is bool:
        return _yes_or_no(cell)
    if held.holds is int:
        return _whole(cell)
    if held.holds is float:
        return float(_number(cell))
    if held.holds is Side:
        return _side(cell)
    if isinstance(held.holds, type) and issubclass(held.holds, StrEnum):
        return _one_of(held.holds, cell)
    return cell


def _length(held: FieldInfo, cell: str, column: Column) -> str:
    """Return a length as a job file writes it: number, unit, and for a deck its direction."""
    words = cell.lower().replace("−", "-").split()
    ways = [word for word in words if word in ("down", "out", "zero", "level")] if held.measure is Measure.DECK else []
    if ways and ways[0] in ("zero", "level"):
        return "zero"
    text = " ".join(word for word in words if word not in ways)
    its_own = next((word for word in sorted(UNITS, key=len, reverse=True) if text.endswith(word)), "")
    digits, unit = text.removesuffix(its_own).strip(), UNITS.get(its_own, column.unit)
    if not unit:
        raise _WrongCellError(f"“{cell}”: give the unit, in the heading as {column.heading} (mm), or in the cell.")
    number = _number(digits)
    if held.measure is not Measure.DECK:
        return f"{number:f} {unit}"
    if ways and number < 0:
        raise _WrongCellError(f"“{cell}” gives its direction twice.")
    way = ways[0] if ways else ("down" if number > 0 else "out")
    return f"{abs(number):f} {unit} {way}" if number else "zero"


_COULD_BE_THOUSANDS = re.compile(r"[-+]?[1-9]\d{0,2},\d{3}")


def _number(cell: str) -> Decimal:
    text = cell.strip().replace("−", "-").replace("\u00a0", "")
    if _COULD_BE_THOUSANDS.fullmatch(text):
        raise _WrongCellError(
            f"“{cell}”: is that {text.replace(',', '.')} or {text.replace(',', '')}? Write it without a comma."
        )
    if text.count(",") == 1 and "." not in text:
        text = text.replace(",", ".")
    try:
        number = Decimal(text)
    except InvalidOperation:
        raise _WrongCellError(f"“{cell}” is not a number.") from None
    if not number.is_finite() or abs(number) > Decimal("1e9"):
        raise _WrongCellError(f"“{cell}” is not a figure that can be measured at a bench.")
    return number


def _whole(cell: str) -> int:
    number = _number(cell)
    if number != number.to_integral_value():
        raise _WrongCellError(f"“{cell}” is not a whole number.")
    return int(number)


def _yes_or_no(cell: str) -> bool:
    word = cell.lower()
    if word in YES:
        return True
    if word in NO:
        return False
    raise _WrongCellError(f"“{cell}”: yes or no.")


def _side(cell: str) -> str:
    word = cell.lower()
    found = SIDES.get(word) or next((side for side in Side if side == word), None)
    if found is None:
        raise _WrongCellError(f"“{cell}”: intake or exhaust.")
    return str(found)


def _one_of(choices: type[StrEnum], cell: str) -> str:
    word = " ".join(cell.lower().split())
    if word not in [choice.lower() for choice in choices]:
        raise _WrongCellError(f"“{cell}”: one of {', '.join(choices)}.")
    return str(next(choice for choice in choices if choice.lower() == word))


def _place(cell: str, kind: ReadingKind) -> dict[str, Any]:
    """Read a place from a cell: ``Exhaust 3``, ``E3``, ``3E``, ``Intake 2b``, or a cylinder."""
    word = cell.lower().replace(" ", "")
    letters = "".join(one for one in word if one.isalpha())
    digits = "".join(one for one in word if one.isdecimal())
    if not has_valve(kind):
        return {"cylinder": _whole(digits or cell)}
    valve = 1
    if letters[-1:] in LETTERS and word[-1:] == letters[-1:] and letters[:-1]:
        valve, letters = LETTERS[letters[-1]], letters[:-1]
    if not digits or not letters:
        raise _WrongCellError(f"“{cell}”: a valve, as Exhaust 3 or E3.")
    return {"cylinder": int(digits[:6]), "side": _side(letters), "valve": valve}
