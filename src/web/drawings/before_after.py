"""Closest approach before and after a change: each side's tightest valve."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mockup.plans.what_if import CurveChange
from mockup.quantity.shown import format_bench
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import BENCH_UNIT, Unit
from web.drawings.overlap import angles, highest_shown, path_of, rises, x_of, y_of

WINDOW = 2.6
"""The chart reaches this many times the largest minimum, so that the closest points fill it."""


@dataclass(frozen=True, slots=True)
class CurvePair:
    """One valve's two curves, their closest points, and its minimum."""

    side: str
    label: str
    before: str
    after: str
    was_x: float
    was_y: float
    is_x: float
    is_y: float
    words: str
    need_y: float | None
    need: str


@dataclass(frozen=True, slots=True)
class BeforeAfterChart:
    """Both sides on one scale."""

    pairs: tuple[CurvePair, ...]
    grid: tuple[tuple[float, str], ...]
    rises: tuple[tuple[float, str], ...]
    tdc_x: float
    unit: str


def before_after(curves: Sequence[CurveChange], unit: Unit) -> BeforeAfterChart | None:
    """Return the chart, None where no lobe is known."""
    if not curves:
        return None
    lows = [float(part.min()) for curve in curves for part in (curve.before_mm, curve.after_mm)]
    needs = [curve.need_mm or 0.0 for curve in curves]
    most = highest_shown(max([*lows, *needs, 0.5]) * WINDOW, max(lows))
    pairs = tuple(_pair(curve, most, unit) for curve in curves)
    return BeforeAfterChart(pairs, angles(), rises(most, unit), x_of(0.0), BENCH_UNIT[unit])


def _pair(curve: CurveChange, most: float, unit: Unit) -> CurvePair:
    lowest = [int(np.argmin(part)) for part in (curve.before_mm, curve.after_mm)]
    at = [float(curve.t_deg[one]) for one in lowest]
    low = [float(curve.before_mm[lowest[0]]), float(curve.after_mm[lowest[1]])]
    need = curve.need_mm
    return CurvePair(
        side=str(curve.side),
        label=curve.label,
        before=_line(curve, curve.before_mm, most),
        after=_line(curve, curve.after_mm, most),
        was_x=x_of(at[0]),
        was_y=y_of(low[0], most),
        is_x=x_of(at[1]),
        is_y=y_of(low[1], most),
        words=f"{format_bench(low[1], unit)} at {format_crank_angle(at[1])}",
        need_y=None if need is None else y_of(need, most),
        need="" if need is None else f"{curve.label} wants {format_bench(need, unit)}",
    )


def _line(curve: CurveChange, mm: np.ndarray, most: float) -> str:
    shown = mm <= most
    return path_of([(x_of(t), y_of(c, most)) for t, c in zip(curve.t_deg[shown], mm[shown], strict=True)])
