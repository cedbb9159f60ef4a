"""A report's arithmetic as sheets of cells: formulas where possible, figures beside them.

Lengths are in the build's unit, in inches and not thou. What no cell can compute (carrying a reading along a lobe, an
uncertainty) is in the sheet as a number.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot, pi
from typing import Any, ClassVar

from mockup.checks.check import Check
from mockup.checks.compression import RATIO_CHECK, sealed_bore, volumes_of
from mockup.limits.judge import SLACK, Bound
from mockup.quantity.corrections import running_figure
from mockup.quantity.value import MM_PER_INCH, Unit
from mockup.report import Report
from mockup.words.report_text import DEFER, engine_line

READ_ME, INPUTS, RATIO, QUENCH, CORRECTIONS, VERDICT = "Read me", "Inputs", "Ratio", "Quench", "Corrections", "Verdict"
THE_SAME = 1e-9
"""A figure equal to the sum of its corrections within this [mm or 1] is written as that sum."""


@dataclass(frozen=True, slots=True)
class Formula:
    """A computed cell: the formula without its equals sign, its result, and its number format.

    ``value`` is shown by viewers that compute nothing.
    """

    text: str
    value: float | str
    shown: str = "0.0000"


@dataclass(frozen=True, slots=True)
class Sheet:
    """One sheet: name, rows of text, numbers and formulas, and its heading rows, from 1."""

    name: str
    rows: Sequence[Sequence[Any]]
    headings: tuple[int, ...] = ()
    ARITHMETIC: ClassVar[tuple[str, ...]] = (READ_ME, INPUTS, RATIO, QUENCH, CORRECTIONS, VERDICT)


def workbook_sheets(report: Report) -> list[Sheet]:
    """Return every sheet of a report's arithmetic, in reading order."""
    (ratio, ratios), (corrections, figures) = _ratio(report), _corrections(report)
    return [
        _read_me(report),
        _inputs(report),
        *ratio,
        *_quench(report),
        corrections,
        _verdict(report, figures | ratios),
    ]


def _in(unit: Unit, mm: float | None) -> float | None:
    return None if mm is None else _length(unit, mm)


def _length(unit: Unit, mm: float) -> float:
    return mm if unit is Unit.MILLIMETRE else mm / MM_PER_INCH


def _read_me(report: Report) -> Sheet:
    unit = report.job.unit
    rows = [
        [report.job.name],
        [engine_line(report.job.engine, unit)],
        [f"Lengths in {'inches' if unit is Unit.INCH else 'millimetres'}, volumes in cm3, angles in degrees."],
        ["U is the expanded uncertainty, k times the standard uncertainty u."],
        [f"Changes in {INPUTS} move {RATIO}, {QUENCH}, and the ratios of {VERDICT}."],
        [f"Changes in {CORRECTIONS} move the figures of {VERDICT} whose line says so; the others stay."],
        ["The program’s own result is beside them."],
        ["The readings follow, one sheet for each kind; they can be imported as they are."],
        [DEFER],
        ["A passed check is no warranty."],
    ]
    return Sheet(READ_ME, rows, headings=(1,))


def _inputs(report: Report) -> Sheet:
    """Return the inputs of ratio and quench, which the other sheets look up by row."""
    engine, unit, final = report.job.engine, report.job.unit, report.context.final
    length = str(unit)
    rows: list[list[Any]] = [
        ["what", "value", "unit"],
        ["bore", _in(unit, engine.bore_mm), length],
        ["stroke", _in(unit, engine.stroke_mm), length],
        ["rod length", _in(unit, engine.rod_length_mm), length],
        ["final gasket, compressed", _in(unit, final.compressed_mm if final else None), length],
        [
            "final gasket, bore",
            _in(unit, sealed_bore(final, engine).value if final and engine.bore_mm else None),
            length,
        ],
        ["final gasket, u of its thickness", _in(unit, final.thickness.u if final else None), length],
        ["millimetres in one of the unit", MM_PER_INCH if unit is Unit.INCH else 1.0, "mm"],
        ["cylinders", engine.cylinders, ""],
    ]
    return Sheet(INPUTS, rows, headings=(1,))


BORE, STROKE, GASKET, GASKET_BORE, GASKET_U, PER_UNIT = (f"{INPUTS}!$B${row}" for row in (2, 3, 5, 6, 7, 8))


def _cc(bore: str, height: str, bore_mm: float, height_mm: float) -> Formula:
    """Return the volume of a cylinder [cm3] from the cells of bore and height."""
    text = f"PI()/4*({bore}*{PER_UNIT})^2*{height}*{PER_UNIT}/1000"
    return Formula(text, pi / 4 * bore_mm**2 * height_mm / 1000, "0.00")


def _ratio(report: Report) -> tuple[list[Sheet], dict[str, tuple[str, str]]]:
    """Return the ratio of cylinders with known volumes, and each check's cells of figure and U."""
    unit = report.job.unit
    heads = ["cylinder", "chamber cm3", "piston cm3, dish positive", f"deck {unit}, down positive", "deck cm3"]
    heads += ["gasket cm3", "all above the crown cm3", "swept cm3", "ratio", "as computed by the program", "its U"]
    rows: list[list[Any]] = [heads]
    figures = {}
    for check in report.checks:
        volumes = volumes_of(report.context, check.cylinder) if check.kind is RATIO_CHECK else None
        if volumes is None or check.figure is None:
            continue
        at = len(rows) + 1
        engine, final, deck_mm = (
            report.job.engine,
            report.context.final,
            report.context.known_decks[check.cylinder].clearance.value,
        )
        bore_mm, stroke_mm = engine.bore_mm or 0.0, engine.stroke_mm or 0.0  # a ratio exists where both are known
        deck = _cc(BORE, f"D{at}", bore_mm, deck_mm)
        gasket_mm = (sealed_bore(final, engine).value, final.compressed_mm) if final else (0.0, 0.0)
        gasket = _cc(GASKET_BORE, GASKET, *gasket_mm)
        swept = _cc(BORE, STROKE, bore_mm, stroke_mm)
        above = volumes.chamber.value + volumes.piston.value + float(deck.value) + float(gasket.value)
        rows.append(
            [
                check.cylinder,
                volumes.chamber.value,
                volumes.piston.value,
                _in(unit, deck_mm),
                deck,
                gasket,
                Formula(f"B{at}+C{at}+E{at}+F{at}", above, "0.00"),
                swept,
                Formula(f"(H{at}+G{at})/G{at}", (float(swept.value) + above) / above, "0.000"),
                check.figure.value,
                check.figure.expanded,
            ]
        )
        figures[check.label] = (f"{RATIO}!I{at}", f"{RATIO}!K{at}")
    return ([Sheet(RATIO, rows, headings=(1,))] if figures else []), figures


def _quench(report: Report) -> list[Sheet]:
    """Return deck and gasket of each cylinder with a deck, if a final gasket is stated."""
    unit, final = report.job.unit, report.context.final
    heads = [
        "cylinder",
        f"deck {unit}, down positive",
        "its u",
        f"quench {unit}",
        "its u",
        "as computed by the program",
    ]
    rows: list[list[Any]] = [heads]
    for cylinder, deck in report.deck.items() if final else ():
        at = len(rows) + 1
        clearance = deck.clearance
        gasket = final.thickness if final else clearance
        quench_mm, u_mm = clearance.value + gasket.value, hypot(clearance.u, gasket.u)
        rows.append(
            [
                cylinder,
                _in(unit, clearance.value),
                _in(unit, clearance.u),
                Formula(f"B{at}+{GASKET}", _length(unit, quench_mm)),
                Formula(f"SQRT(C{at}^2+{GASKET_U}^2)", _length(unit, u_mm), "0.00000"),
                _in(unit, quench_mm),
            ]
        )
    return [Sheet(QUENCH, rows, headings=(1,))] if len(rows) > 1 else []


def _k(u: float, expanded: float) -> float:
    return expanded / u if u else 2.0


def _corrections(report: Report) -> tuple[Sheet, dict[str, tuple[str, str]]]:
    """Return the corrections of every figure; and for each check the cells of its figure and U."""
    unit = report.job.unit
    rows: list[list[Any]] = [
        ["check", "step", f"adds, {unit}", f"u, {unit}", f"shared with the steps before, {unit}2", "k", f"U, {unit}"]
    ]
    headings, figures = [1], {}
    for check in report.checks:
        if not (check.governing and check.figure and check.governing.corrections) or check.kind is RATIO_CHECK:
            continue
        corrections = check.governing.corrections
        first = len(rows) + 1
        for correction in corrections:
            shared = correction.shared / MM_PER_INCH**2 if unit is Unit.INCH else correction.shared
            value, u = _in(unit, correction.delta.value), _in(unit, correction.delta.u)
            rows.append([check.label, correction.text, value, u, shared or None])
        last, at = len(rows), len(rows) + 1
        summed = running_figure(corrections)
        if abs(summed.value - check.figure.value) > THE_SAME or abs(summed.u - check.figure.u) > THE_SAME:
            # The governing figure is not the sum of these: a bound, or a closest approach between readings.
            total: list[Any] = [_in(unit, check.figure.value), _in(unit, check.figure.u)]
        else:
            squares = f"SUMSQ(D{first}:D{last})+2*SUM(E{first}:E{last})"
            total = [
                Formula(f"SUM(C{first}:C{last})", _length(unit, summed.value)),
                Formula(f"SQRT({squares})", _length(unit, summed.u), "0.00000"),
            ]
        k = _k(check.figure.u, check.figure.expanded)
        expanded = Formula(f"F{at}*D{at}", _length(unit, k * check.figure.u))
        rows.append([check.label, "as it will run", *total, None, k, expanded])
        headings.append(at)
        figures[check.label] = (f"{CORRECTIONS}!C{at}", f"{CORRECTIONS}!G{at}")
    return Sheet(CORRECTIONS, rows, headings=tuple(headings)), figures


def _verdict(report: Report, figures: dict[str, tuple[str, str]]) -> Sheet:
    """Return every check: figure, U, limits, margin, and state by cells and by program."""
    heads = ["check", "figure", "U", "at least", "at most", "left", "by these cells", "by the program", "required"]
    heads += ["governed by", "why there is no figure", "in", "moves with"]
    rows: list[list[Any]] = [heads]
    for check in report.checks:
        unit = report.job.unit if check.kind.is_length else Unit.MILLIMETRE
        at = len(rows) + 1
        rows.append(
            [
                check.label,
                *_figure(check, figures, unit),
                _in(unit, check.limit.low),
                _in(unit, check.limit.high),
                *(_judged(check, at, unit) if check.figure else (None, None)),
                str(check.state),
                "yes" if check.required else "no",
                check.governing.method if check.governing else "",
                check.missing,
                str(unit) if check.kind.is_length else "as it is",
                _moves_with(check, figures),
            ]
        )
    return Sheet(VERDICT, rows, headings=(1,))


def _figure(check: Check, figures: dict[str, tuple[str, str]], unit: Unit) -> tuple[Any, Any]:
    if check.figure is None:
        return None, None
    if check.label in figures:
        figure, expanded = figures[check.label]
        value, expanded_value = _length(unit, check.figure.value), _length(unit, check.figure.expanded)
        return Formula(figure, value), Formula(expanded, expanded_value, "0.00000")
    return _in(unit, check.figure.value), _in(unit, check.figure.expanded)


def _moves_with(check: Check, figures: dict[str, tuple[str, str]]) -> str:
    """Return which sheet a changed cell must be in to move the line of a check."""
    if check.label not in figures:
        return "nothing: the program’s own figure" if check.figure else ""
    return INPUTS if check.kind is RATIO_CHECK else f"{CORRECTIONS}, and not {INPUTS}"


def _judged(check: Check, at: int, unit: Unit) -> tuple[Any, Any]:
    """Return margin and state by ``judge``; bounds, metal and questions stay the program's."""
    slack, left = _length(unit, SLACK), _length(unit, check.margin or 0.0)
    low, high = check.limit.low, check.limit.high
    rooms = [*([f"B{at}-D{at}"] if low is not None else []), *([f"E{at}-B{at}"] if high is not None else [])]
    by_program = check.is_metal or check.questioned
    if not rooms or by_program or (check.governing and check.governing.bound is not Bound.EXACT):
        return (Formula(f"MIN({','.join(rooms)})", left) if rooms else None), None
    short = f"B{at}+C{at}<D{at}-{slack!r}" if low is not None else "FALSE"
    over = f"B{at}-C{at}>E{at}+{slack!r}" if high is not None else "FALSE"
    inside = [
        *([f"B{at}-C{at}>=D{at}-{slack!r}"] if low is not None else []),
        *([f"B{at}+C{at}<=E{at}+{slack!r}"] if high is not None else []),
    ]
    words = f'IF({short},"short",IF({over},"over",IF(AND({",".join(inside)}),"clear","too close to call")))'
    return Formula(f"MIN({','.join(rooms)})", left), Formula(words, str(check.state), "General")
