"""Clearance against crank angle about overlap TDC, for every swept valve of a cylinder."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mockup.checks.check import Check
from mockup.checks.sweeps import is_enough, to_running_mm
from mockup.checks.valves import FACE_KINDS
from mockup.fit.swept_valve import SweepFigure
from mockup.quantity.shown import format_bench
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import BENCH_UNIT, Unit
from mockup.report import Report
from web.drawings.overlap import REACH_DEG, angles, highest_shown, path_of, rises, x_of, y_of


@dataclass(frozen=True, slots=True)
class Dot:
    """One reading in the chart's conditions, with its U as a bar."""

    x: float
    y: float
    low: float
    high: float
    out: bool


@dataclass(frozen=True, slots=True)
class ApproachChart:
    """One valve's curve: the fit with its band, readings, minimum, margin, where to read next."""

    side: str
    label: str
    path: str
    band: str
    dots: tuple[Dot, ...]
    min_x: float
    min_y: float
    words: str
    need_y: float | None
    need: str
    next_x: float | None


@dataclass(frozen=True, slots=True)
class CurveChart:
    """All curves of one cylinder on one scale."""

    curves: tuple[ApproachChart, ...]
    grid: tuple[tuple[float, str], ...]
    rises: tuple[tuple[float, str], ...]
    tdc_x: float
    unit: str
    conditions: str


def fitted_of(report: Report, cylinder: int) -> tuple[list[tuple[SweepFigure, Check, float]], str]:
    """Return a cylinder's fitted sweeps, each with check and offset [mm], and conditions."""
    found: list[tuple[SweepFigure, Check, float | None]] = []
    for figure in report.sweeps:
        if not (figure.closest and figure.settled and figure.closest.has_curve) or figure.place.cylinder != cylinder:
            continue
        for check in report.of_kind(FACE_KINDS[figure.place.side]):
            if (check.cylinder, check.number) != (cylinder, figure.place.number):
                continue
            found.append((figure, check, to_running_mm(figure, check)))
    # One basis for all: as mocked up, until every one can be carried to the running engine.
    if any(shift is None for _, _, shift in found):
        return [(figure, check, 0.0) for figure, check, _ in found], "as mocked up"
    return [(figure, check, shift or 0.0) for figure, check, shift in found], "as it will run"


def approach_chart(report: Report, cylinder: int) -> CurveChart | None:
    """Return the chart of one cylinder, None before any of its valves has a fit."""
    fitted, conditions = fitted_of(report, cylinder)
    if not fitted:
        return None
    unit = report.job.unit
    tops = [
        max((value.value for value in figure.along), default=_highest(figure)) + shift for figure, _, shift in fitted
    ]
    needs = [check.limit.low or 0.0 for _, check, _ in fitted]
    lows = [figure.closest.minimum.value + shift for figure, _, shift in fitted if figure.closest]
    most = highest_shown(max([*tops, *needs]) * 1.12, max(lows))
    curves = tuple(_curve(figure, check, shift, most, unit) for figure, check, shift in fitted)
    return CurveChart(curves, angles(), rises(most, unit), x_of(0.0), BENCH_UNIT[unit], conditions)


def _highest(figure: SweepFigure) -> float:
    """Return the height of a curve from the drop alone, at its middle [mm]."""
    assert figure.closest is not None
    return float(np.median(figure.closest.curve_mm))


def _curve(figure: SweepFigure, check: Check, shift: float, most: float, unit: Unit) -> ApproachChart:
    closest = figure.closest
    assert closest is not None
    curve, band = closest.curve_mm + shift, 2 * closest.band_mm
    inside = (np.abs(closest.grid_deg) <= REACH_DEG) & (curve <= most)
    grid = closest.grid_deg[inside][::2]
    points = [(x_of(a), y_of(c, most)) for a, c in zip(grid, curve[inside][::2], strict=True)]
    edges = [(x_of(a), y_of(c, most)) for a, c in zip(grid, (curve + band)[inside][::2], strict=True)]
    edges += [(x_of(a), y_of(c, most)) for a, c in zip(grid[::-1], (curve - band)[inside][::2][::-1], strict=True)]
    low = closest.minimum.value + shift
    need = check.limit.low
    return ApproachChart(
        side=str(figure.place.side),
        label=check.label,
        path=path_of(points),
        band=f"{path_of(edges)}Z",
        dots=tuple(_dots(figure, closest.outlier, shift, most)),
        min_x=x_of(closest.angle.value),
        min_y=y_of(low, most),
        words=f"{format_bench(low, unit)} at {format_crank_angle(round(closest.angle.value))}",
        need_y=y_of(need, most) if need is not None else None,
        need=f"wants {format_bench(need, unit)}" if need is not None else "",
        next_x=None if closest.next_deg is None or is_enough(closest, check) else x_of(closest.next_deg),
    )


def _dots(figure: SweepFigure, outlier: Sequence[bool], shift: float, most: float) -> list[Dot]:
    assert figure.closest is not None
    noise = figure.closest.noise
    return [
        Dot(
            x_of(angle),
            y_of(value.value + shift, most),
            y_of(value.value + shift - noise.expanded, most),
            y_of(value.value + shift + noise.expanded, most),
            out,
        )
        for angle, value, out in zip(figure.angles_deg, figure.along, outlier, strict=True)
    ]
