"""The readings of a job as tables: one for each kind, or one for all."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from mockup.engine.valves import Place
from mockup.formats.columns import KIND, OF_RECORD, heading_of, held_by, main_field, name_of
from mockup.formats.table import Table
from mockup.job import Job
from mockup.quantity.fields import FieldInfo, Measure, fields_of
from mockup.quantity.shown import format_both, format_deck
from mockup.quantity.value import INCH_MM, Unit
from mockup.readings.kinds import READING_KINDS, ReadingKind
from mockup.readings.record import Record

PLACES = Decimal("1e-7")
"""Decimals of a cell where that reads back as the same length: more than any tool can tell apart."""
NOT_SHOWN = ("key",)
"""A reading's key in one log means nothing in another."""


def reading_tables(job: Job) -> list[Table]:
    """Return a table for each kind with readings, named as in a job file, struck ones too."""
    return [_table(kind, job) for kind in READING_KINDS if job.of(kind.core)]


def one_table(job: Job) -> Table:
    """Return all readings in one table, with a column for the kind."""
    tables = [(kind, _table(kind, job)) for kind in READING_KINDS if job.of(kind.core)]
    headings = list(dict.fromkeys(heading for _, table in tables for heading in table.headings))
    # What readers look for first comes first, the log's own fields last.
    first = [one for one in ("cylinder", "side", "valve", "mockup") if one in headings]
    last = [one for one in ("after", *OF_RECORD) if one in headings]
    headings = [*first, *(one for one in headings if one not in first + last), *last]
    rows = []
    for kind, table in tables:
        for row in table.rows:
            cells = dict(zip(table.headings, row, strict=True))
            rows.append((kind.name, *(cells.get(heading, "") for heading in headings)))
    return Table("readings", (KIND, *headings), tuple(rows))


def _table(kind: ReadingKind, job: Job) -> Table:
    lines = [_cells(reading, job.unit) for reading in job.of(kind.core)]
    used = list(dict.fromkeys(heading for line in lines for heading, cell in line.items() if cell))
    order = {heading: at for at, heading in enumerate(_order(kind, job.unit))}
    headings = sorted(used, key=lambda heading: order[heading])
    return Table(kind.listed, tuple(headings), tuple(tuple(line.get(one, "") for one in headings) for line in lines))


def _order(kind: ReadingKind, unit: Unit) -> list[str]:
    """Return the headings of a kind in order: the place first, the record last."""
    plain = [held for held in fields_of(kind.core) if held.holds not in (Place, Record)]
    first = ["cylinder", "side", "valve", "mockup"]
    names = [heading_of(held, unit) for held in plain]
    return [*first, *(name for name in names if name not in (*first, "after")), "after", *OF_RECORD]


def _cells(reading: Any, unit: Unit) -> dict[str, str]:
    cells: dict[str, str] = {}
    for held in fields_of(type(reading)):
        value = getattr(reading, held.name)
        if isinstance(value, Record):
            cells |= {column: getattr(value, field) for column, field in OF_RECORD.items()}
        elif isinstance(value, Place):
            cells |= {"cylinder": str(value.cylinder), "side": str(value.side)}
            cells |= {"valve": str(value.number)} if value.number > 1 else {}
        elif held.name not in NOT_SHOWN and (held.is_required or value != held.default):
            cells[heading_of(held, unit)] = _cell(held, value, unit)
    return cells


def _cell(held: FieldInfo, value: Any, unit: Unit) -> str:
    if value is None:
        return ""
    if held.measure in (Measure.LENGTH, Measure.DECK):
        return length_cell(value, unit)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return repr(value) if isinstance(value, float) else str(value)


def length_cell(mm: float, unit: Unit) -> str:
    """Return a length in its column's unit; with its own where only that reads back alike."""
    for factor, its_own in ((_per(unit), ""), (Decimal(1), " mm"), (INCH_MM, " in")):
        number = (Decimal(repr(mm)) / factor).quantize(PLACES)
        if float(number * factor) == mm:
            return f"{_shortest(number)}{its_own}"
    return f"{Decimal(repr(mm)):f} mm"


def _per(unit: Unit) -> Decimal:
    return INCH_MM if unit is Unit.INCH else Decimal(1)


def _shortest(number: Decimal) -> str:
    text = f"{number:f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("", "-0") else text


@dataclass(frozen=True, slots=True)
class ReadingWords:
    """A reading in words, as understood: place, value in both units, and the rest."""

    where: str
    value: str
    more: str


def reading_words(reading: Any, job: Job) -> ReadingWords:
    """Return a reading in words."""
    kind = READING_KINDS.of(type(reading))
    place = getattr(reading, "place", None)
    if place:
        where = place.label(job.engine.row(place.side).count)
    else:
        where = f"cylinder {reading.cylinder}" if getattr(reading, "cylinder", None) else ""
    main = held_by(kind)[main_field(kind)]
    value = getattr(reading, main.name)
    if main.measure is Measure.DECK:
        shown = f"{format_both(abs(value), job.unit)} {format_deck(value, job.unit).partition(' ')[2]}".strip()
    else:
        shown = format_both(value, job.unit) if main.measure else f"{value:g} {name_of(main)}"
    known = {"cylinder", "side", "valve", heading_of(main, job.unit), *OF_RECORD}
    more = "; ".join(f"{head} {cell}" for head, cell in _cells(reading, job.unit).items() if cell and head not in known)
    return ReadingWords(where, shown, more)
