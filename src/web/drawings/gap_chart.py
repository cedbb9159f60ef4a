"""Every clearance as a bar from zero, with uncertainty, against its limit."""

from dataclasses import dataclass

from mockup.checks.check import Check
from mockup.limits.judge import State
from mockup.quantity.value import BENCH_UNIT, MM_PER_THOU, Unit
from mockup.report import Report
from mockup.words.report_text import figure_text

WIDTH = 640.0
LEFT, RIGHT = 96.0, 500.0
ROW = 24.0
TOP = 30.0


@dataclass(frozen=True, slots=True)
class Bar:
    """One check: its row, the figure's mark with U either side, and the limit's marks."""

    label: str
    y: float
    state: State
    x: float | None
    from_x: float | None
    to_x: float | None
    low_x: float | None
    high_x: float | None
    words: str


@dataclass(frozen=True, slots=True)
class GapChart:
    """All bars under one scale."""

    height: float
    bars: tuple[Bar, ...]
    ticks: tuple[tuple[float, str], ...]
    unit: str


def gap_chart(report: Report) -> GapChart:
    """Return the chart of every length that has a figure, or is required with a minimum."""
    shown = [check for check in report.checks if check.kind.is_length and (check.figure or check.required)]
    unit = report.job.unit
    reach = max([_reach(check) for check in shown], default=1.0) * 1.08
    bars = tuple(_bar(check, TOP + ROW * (at + 0.5), reach, unit) for at, check in enumerate(shown))
    return GapChart(TOP + ROW * len(shown) + 12, bars, _ticks(reach, unit), BENCH_UNIT[unit])


def _reach(check: Check) -> float:
    figure = check.figure
    ends = [figure.value + figure.expanded] if figure else []
    return max([*ends, check.limit.low or 0.0, check.limit.high or 0.0, 0.1])


def _x(mm: float, reach: float) -> float:
    return round(LEFT + (RIGHT - LEFT) * min(max(mm / reach, 0.0), 1.0), 1)


def _bar(check: Check, y: float, reach: float, unit: Unit) -> Bar:
    figure, limit = check.figure, check.limit
    return Bar(
        label=check.label,
        y=y,
        state=check.state,
        x=_x(figure.value, reach) if figure else None,
        from_x=_x(figure.value - figure.expanded, reach) if figure else None,
        to_x=_x(figure.value + figure.expanded, reach) if figure else None,
        low_x=_x(limit.low, reach) if limit.low is not None else None,
        high_x=_x(limit.high, reach) if limit.high is not None else None,
        words=figure_text(check, unit) if figure else check.missing,
    )


def _ticks(reach: float, unit: Unit) -> tuple[tuple[float, str], ...]:
    """Return about five round tick marks."""
    per = MM_PER_THOU if unit is Unit.INCH else 1.0
    steps = (5, 10, 20, 50, 100, 200, 500) if unit is Unit.INCH else (0.1, 0.2, 0.5, 1, 2, 5, 10)
    step = next((s for s in steps if reach / per / s <= 6), steps[-1])
    count = int(reach / per / step)
    return tuple((_x(at * step * per, reach), f"{at * step:g}") for at in range(count + 1))
