"""Valve lift of both sides about overlap TDC, with opening and closing."""

from dataclasses import dataclass

import numpy as np

from mockup.fit.cam_report import SideCam
from mockup.quantity.shown import format_bench
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.report import Report

WIDTH, HEIGHT = 640.0, 300.0
LEFT, RIGHT, TOP, BOTTOM = 44.0, 630.0, 16.0, 262.0
REACH_DEG = 280.0
STEP_DEG = 4.0


@dataclass(frozen=True, slots=True)
class Event:
    """Where a valve opens or closes at the checking lift."""

    x: float
    words: str
    row: float


@dataclass(frozen=True, slots=True)
class LiftCurve:
    """One side's curve. ``measured``: drawn solid, otherwise as an estimate."""

    side: str
    path: str
    measured: bool
    words: str
    top_x: float
    top_y: float
    events: tuple[Event, ...]


@dataclass(frozen=True, slots=True)
class LiftCurves:
    """The whole drawing."""

    curves: tuple[LiftCurve, ...]
    grid: tuple[tuple[float, str], ...]
    rises: tuple[tuple[float, str], ...]
    tdc_x: float


def lift_curves(report: Report) -> LiftCurves | None:
    """Return the drawing of a report's cam, None where no side is known."""
    sides = report.cam.sides
    if not sides:
        return None
    most = max(one.train.lift_max_mm for one in sides.values()) * 1.1
    unit = report.job.unit
    curves = tuple(_curve(one, most, unit, row) for row, one in enumerate(sides.values()))
    grid = tuple((_x(angle), format_crank_angle(angle)) for angle in (-180.0, -90.0, 0.0, 90.0, 180.0))
    return LiftCurves(curves, grid, _rises(most, unit), _x(0.0))


def _curve(one: SideCam, most: float, unit: Unit, row: int) -> LiftCurve:
    angles = np.arange(-REACH_DEG, REACH_DEG + STEP_DEG / 2, STEP_DEG)
    points = " L".join(
        f"{_x(angle):.1f},{_y(lift, most):.1f}" for angle, lift in zip(angles, one.train.lift_mm(angles), strict=True)
    )
    events = [
        Event(_x(at), f"{what} {format_crank_angle(at)}", BOTTOM + 20 + 15 * row)
        for what, at in (("opens", one.opens_deg), ("closes", one.closes_deg))
        if at is not None and abs(at) <= REACH_DEG
    ]
    return LiftCurve(
        side=str(one.side),
        path=f"M{points}",
        measured=one.train.lobe.measured,
        words=f"{one.side} {format_bench(one.train.lift_max_mm, unit)}",
        top_x=_x(one.centreline.value),
        top_y=_y(one.train.lift_max_mm, most) - 5,
        events=tuple(events),
    )


def _x(angle: float) -> float:
    return round(LEFT + (angle + REACH_DEG) / (2 * REACH_DEG) * (RIGHT - LEFT), 1)


def _y(lift: float, most: float) -> float:
    return BOTTOM - float(lift) / most * (BOTTOM - TOP)


def _rises(most: float, unit: Unit) -> tuple[tuple[float, str], ...]:
    per, steps = (MM_PER_THOU, (50, 100, 200)) if unit is Unit.INCH else (1.0, (1, 2, 5))
    step = next((one for one in steps if most / per / one <= 6), steps[-1])
    return tuple((round(_y(at * step * per, most), 1), f"{at * step:g}") for at in range(int(most / per / step) + 1))
