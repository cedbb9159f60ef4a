"""The margin strip: one cell a kind of check, words from the report, nothing computed."""

from dataclasses import dataclass

from mockup.checks.check import Check
from mockup.limits.judge import State
from mockup.report import Report, Summary
from mockup.words.report_text import amount, as_mocked_up_text, figure_text, limit_text, margin_text

STATE_CLASSES = {
    State.CLEAR: "clear",
    State.CLOSE: "close",
    State.SHORT: "short",
    State.OVER: "over",
    State.NOT_MEASURED: "none",
    State.QUESTIONED: "close",
    State.NO_MINIMUM: "unset",
}
"""CSS names of the four tones and the shapes of the gap mark."""


@dataclass(frozen=True, slots=True)
class Cell:
    """One cell of the strip, as shown."""

    kind: str
    label: str
    state: str
    tone: str
    big: str
    sub: str
    sub2: str
    carried: str
    signed: str


def strip_of(report: Report) -> list[Cell]:
    """Return the cells of a report."""
    return [_cell(report, summary) for summary in report.summaries if not _spoken_for(summary)]


def _spoken_for(summary: Summary) -> bool:
    """Return whether the cell is redundant: an edge's quench equal to the middle's."""
    return summary.kind.only_worse and summary.state in (State.CLEAR, State.NO_MINIMUM)


def _cell(report: Report, summary: Summary) -> Cell:
    unit = report.job.unit
    check = summary.tightest
    figure = check.figure
    shows_figure = figure is not None and (not summary.kind.is_length or not check.limit.is_set)
    return Cell(
        kind=summary.kind.slug,
        label=summary.kind.label,
        state=str(summary.state),
        tone=STATE_CLASSES[summary.state],
        big=amount(figure.value, summary.kind, unit) if figure and shows_figure else margin_text(check, unit),
        sub=_sub(report, summary),
        sub2=_coverage(summary),
        carried=", ".join(summary.carried),
        signed="signed off" if summary.tightest.signed else "",
    )


def _sub(report: Report, summary: Summary) -> str:
    unit, check = report.job.unit, summary.tightest
    wanted = f"wants {limit_text(check.limit, check.kind, unit)}"
    if check.figure is None:
        first = summary.waiting[0] if summary.waiting else None
        read = f"{_place(first)}: {as_mocked_up_text(first, unit)}, " if first else ""
        return read + (wanted if check.limit.is_set else "no minimum set")
    return f"{_place(check)}: {figure_text(check, unit)}, {wanted if check.limit.is_set else 'no minimum set'}"


def _place(check: Check) -> str:
    """Return where the tightest check is; the cell's label already says what it is."""
    if check.kind.of_a_valve:
        return check.label.rpartition(" ")[0].lower()
    return f"cyl {check.label.removesuffix(' edge').rpartition(' ')[2]}"


def _coverage(summary: Summary) -> str:
    if not summary.measured:
        waiting = len(summary.waiting)
        return f"{waiting} of {summary.total} read, none corrected yet" if waiting else "not read"
    read = f"{summary.measured} of {summary.total} read"
    return f"{read}, more wanted" if summary.wanted else read
