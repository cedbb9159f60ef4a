"""The closest approach of several cams overlaid: both sides of each, labelled by rank."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mockup.engine.valves import Side
from mockup.plans.what_if import CurveChange
from mockup.plans.which_cam import SHOWN_DEG, Prospect
from mockup.quantity.shown import format_bench
from mockup.quantity.value import BENCH_UNIT, Unit
from web.drawings.overlap import angles, highest_shown, path_of, rises, x_of, y_of

MOST = 5
"""The most cams drawn; more lines would be unreadable."""
WINDOW = 2.8


@dataclass(frozen=True, slots=True)
class Line:
    """One cam's curve of one side, and the position of its rank, at its closest point."""

    side: str
    path: str
    mark: str
    x: float
    y: float
    words: str


@dataclass(frozen=True, slots=True)
class Need:
    """A side's minimum."""

    side: str
    y: float
    words: str


@dataclass(frozen=True, slots=True)
class OverlaidChart:
    """All curves on one scale. ``now``: of the present cam, drawn thin."""

    lines: tuple[Line, ...]
    now: tuple[Line, ...]
    needs: tuple[Need, ...]
    grid: tuple[tuple[float, str], ...]
    rises: tuple[tuple[float, str], ...]
    tdc_x: float
    unit: str


def cams_overlaid(prospects: Sequence[Prospect], now: Sequence[CurveChange], unit: Unit) -> OverlaidChart | None:
    """Return the chart of the first candidates; None where none can be drawn."""
    shown = [(at, one) for at, one in enumerate(prospects, start=1) if one.curves][:MOST]
    if not shown:
        return None
    lows = [float(curve.min()) for _, one in shown for curve in one.curves.values()]
    limits = {side: one.check.limit.low for _, found in shown for side, one in found.of_side.items()}
    needs = [need for need in limits.values() if need is not None]
    most = highest_shown(max([*lows, *needs, 0.5]) * WINDOW, max(lows))
    lines = [
        _line(side, str(at), curve, SHOWN_DEG, most, unit) for at, one in shown for side, curve in one.curves.items()
    ]
    return OverlaidChart(
        lines=tuple(lines),
        now=tuple(_line(one.side, "now", one.before_mm, one.t_deg, most, unit) for one in now),
        needs=tuple(
            Need(str(side), y_of(need, most), f"{side} wants {format_bench(need, unit)}")
            for side, need in limits.items()
            if need is not None
        ),
        grid=angles(),
        rises=rises(most, unit),
        tdc_x=x_of(0.0),
        unit=BENCH_UNIT[unit],
    )


def _line(side: Side, mark: str, curve: np.ndarray, t_deg: np.ndarray, most: float, unit: Unit) -> Line:
    shown = curve <= most
    low = int(np.argmin(curve))
    points = [(x_of(t), y_of(c, most)) for t, c in zip(t_deg[shown], curve[shown], strict=True)]
    return Line(
        side=str(side),
        path=path_of(points) if points else "",
        mark=mark,
        x=x_of(t_deg[low]),
        y=y_of(curve[low], most),
        words=format_bench(float(curve[low]), unit),
    )
