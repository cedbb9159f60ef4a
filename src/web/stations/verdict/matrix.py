"""The verdict as a table: rows of kind and valve, columns of cylinders, one cell open."""

from collections.abc import Sequence
from dataclasses import dataclass

from django.utils.text import slugify

from mockup.checks.check import Check, Kind
from mockup.engine.valves import Side
from mockup.limits.judge import State
from mockup.quantity.value import Unit
from mockup.report import FAILING, WORST_FIRST, Report
from mockup.words.report_text import amount, as_mocked_up_text, expanded, finding_text, limit_text
from web.drawings.cell_bar import CellBar, cell_bar, reach_of
from web.page.margin_strip import STATE_CLASSES

NARROW = 8
"""With more cylinders than this a cell has room for its figure only, without U."""


@dataclass(frozen=True, slots=True)
class MatrixCell:
    """One check in its cell: its key, figure and U, tone, and bar.

    ``key``: its name in the address; ``says``: all of it in words, for screen readers.
    """

    key: str
    figure: str
    u: str
    note: str
    tone: str
    says: str
    bar: CellBar | None
    chosen: bool
    signed: bool


@dataclass(frozen=True, slots=True)
class MatrixRow:
    """One kind of check at one valve of every cylinder; None where there is no such check."""

    anchor: str
    label: str
    side: str
    wants: str
    cells: tuple[MatrixCell | None, ...]


@dataclass(frozen=True, slots=True)
class Matrix:
    """The whole table; ``chosen``: the opened check. ``narrow``: its cells have no room for U."""

    columns: tuple[int, ...]
    rows: tuple[MatrixRow, ...]
    chosen: Check | None
    narrow: bool


def matrix(report: Report, asked: str = "") -> Matrix:
    """Return the table of a report; ``asked``: the check to open, else the worst."""
    checks = report.checks
    chosen = next((check for check in checks if slugify(check.label) == asked), None) or _worst(checks)
    columns = report.job.engine.cylinder_numbers
    grouped: dict[tuple[Kind, Side | None, int], dict[int, Check]] = {}
    for check in checks:
        grouped.setdefault((check.kind, check.side, check.number), {})[check.cylinder] = check
    rows = [_row(report, key, found, columns, chosen) for key, found in grouped.items()]
    return Matrix(tuple(columns), tuple(rows), chosen, len(columns) > NARROW)


def _worst(checks: Sequence[Check]) -> Check | None:
    """Return the check to show first: a failing one, then an unproved one, then the tightest."""

    def rank(check: Check) -> tuple[bool, bool, int, float]:
        room = check.margin if check.margin is not None and check.kind.is_length else float("inf")
        failing = check.state in FAILING and not check.signed
        return not failing, check.figure is None, WORST_FIRST.index(check.state), room

    return min(checks, key=rank, default=None)


def _row(
    report: Report,
    key: tuple[Kind, Side | None, int],
    found: dict[int, Check],
    columns: Sequence[int],
    chosen: Check | None,
) -> MatrixRow:
    kind, side, number = key
    unit = report.job.unit
    first = next(iter(found.values()))
    several = side is not None and report.job.engine.row(side).count > 1
    letter = f" {'abc'[number - 1]}" if several and number else ""
    named = f"{side.capitalize()} {kind.label.lower()}" if side and side not in str(kind) else kind.label
    reach = reach_of(list(found.values()))
    limits = {limit_text(check.limit, kind, unit) for check in found.values() if check.limit.is_set}
    return MatrixRow(
        anchor=kind.slug if first is report.of_kind(kind)[0] else "",
        label=named + letter,
        side=str(side or ""),
        wants=f"wants {next(iter(limits))}" if len(limits) == 1 else "",
        cells=tuple(_cell(found.get(column), unit, reach, chosen) for column in columns),
    )


def _cell(check: Check | None, unit: Unit, reach: tuple[float, float], chosen: Check | None) -> MatrixCell | None:
    if check is None:
        return None
    figure, u, note = _shown(check, unit)
    tone = "signed" if check.signed else STATE_CLASSES[check.state]
    words = f"{figure} {f'±{u} ' if u else ''}{note}".strip()
    return MatrixCell(
        key=slugify(check.label),
        figure=figure,
        u=u,
        note=note,
        tone=tone,
        says=f"{check.label}: {words or check.missing}, {'signed off' if check.signed else check.state}",
        bar=cell_bar(check, reach) if check.figure else None,
        chosen=chosen is check,
        signed=check.signed is not None,
    )


def _shown(check: Check, unit: Unit) -> tuple[str, str, str]:
    """Figure, its U, and a note under them."""
    if check.figure:
        note = "read again" if check.read_again else ""
        return amount(check.figure.value, check.kind, unit), expanded(check.figure, check.kind, unit), note
    if check.inferred and check.inferred.figure and not check.governing:
        shown = finding_text(check.inferred, check.kind, unit).split(" ")[0]
        return f"({shown})", "", "by its deck"
    if check.as_mocked_up:
        return as_mocked_up_text(check, unit).split(" ")[0], "", "not corrected"
    if check.governing:
        return "", "", "no proof"
    return "", "", "not read" if check.required or check.state is State.NO_MINIMUM else "not asked"
