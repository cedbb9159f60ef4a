"""Two builds side by side: engines, decks and checks, with the differences."""

from dataclasses import dataclass
from typing import Any

from mockup.checks.check import Check
from mockup.quantity.shown import format_bench, format_deck, format_dimension
from mockup.quantity.value import Unit
from mockup.report import Report
from mockup.words.report_text import engine_line, figure_text, margin_text


@dataclass(frozen=True, slots=True)
class Line:
    """One property of both builds, and the difference where both have a figure."""

    label: str
    one: str
    other: str
    between: str = ""
    states: tuple[str, str] = ("", "")

    @property
    def differs(self) -> bool:
        """Return whether the two differ."""
        return self.one != self.other


def lines_of(one: Report, other: Report) -> dict[str, Any]:
    """Return both reports line by line, in the unit of the first."""
    unit = one.job.unit
    return {
        "engine": _engine(one, other, unit),
        "decks": [_decks(one, other, cylinder, unit) for cylinder in sorted({*one.deck, *other.deck})],
        "checks": _checks(one, other, unit),
    }


def _engine(one: Report, other: Report, unit: Unit) -> list[Line]:
    def said(report: Report) -> dict[str, str]:
        engine, final, job = report.job.engine, report.job.final_gasket, report.job
        sizes = {"bore": engine.bore_mm, "stroke": engine.stroke_mm, "rod": engine.rod_length_mm}
        found = {"engine": engine_line(engine, unit)}
        found |= {
            name: "not stated" if mm is None else f"{format_dimension(mm, unit)} {unit}" for name, mm in sizes.items()
        }
        found["rocker ratio"] = f"{engine.rocker_ratio:g}" if engine.rocker_ratio else "not stated"
        found["final gasket"] = (
            f"{final.name} {format_bench(final.compressed_mm, unit)}".strip() if final else "not chosen"
        )
        found["cam"] = job.camshaft.name or "without a name" if job.camshaft else "not stated"
        found["judged by"] = job.limits.key
        return found

    mine, theirs = said(one), said(other)
    return [Line(name, mine[name], theirs[name]) for name in mine]


def _decks(one: Report, other: Report, cylinder: int, unit: Unit) -> Line:
    mine, theirs = (report.deck.get(cylinder) for report in (one, other))
    said = [format_deck(figure.clearance.value, unit) if figure else "—" for figure in (mine, theirs)]
    between = theirs.clearance.value - mine.clearance.value if mine and theirs else None
    return Line(f"Deck {cylinder}", said[0], said[1], "" if between is None else _signed(between, unit, is_length=True))


def _checks(one: Report, other: Report, unit: Unit) -> list[Line]:
    mine, theirs = ({check.label: check for check in report.checks} for report in (one, other))
    labels = list(dict.fromkeys([*mine, *theirs]))
    read = [label for label in labels if any(label in checks and checks[label].figure for checks in (mine, theirs))]
    return [_check(label, mine.get(label), theirs.get(label), unit) for label in read]


def _check(label: str, mine: Check | None, theirs: Check | None, unit: Unit) -> Line:
    between = ""
    if mine and theirs and mine.figure and theirs.figure:
        between = _signed(theirs.figure.value - mine.figure.value, unit, is_length=mine.kind.is_length)
    states = tuple(str(check.state) if check else "" for check in (mine, theirs))
    return Line(label, _said(mine, unit), _said(theirs, unit), between, (states[0], states[1]))


def _said(check: Check | None, unit: Unit) -> str:
    if check is None or check.figure is None:
        return "not read" if check else "—"
    left = f", {margin_text(check, unit)}" if check.margin is not None else ""
    return f"{figure_text(check, unit)}{left}"


def _signed(value: float, unit: Unit, *, is_length: bool) -> str:
    text = format_bench(abs(value), unit) if is_length else f"{abs(value):.2f}"
    return text if not float(text) else f"{'+' if value > 0 else '−'}{text}"
