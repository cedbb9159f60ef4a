"""Clearance against crank angle about overlap TDC, and the chamber section that goes with every angle."""

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bench.drawings.overlap import REACH_DEG, angles, highest_shown, path_of, rises, x_of, y_of
from mockup.changes.pistons import USUAL_DIAMETER
from mockup.checks.check import Check
from mockup.checks.sweeps import is_enough, to_running_mm
from mockup.checks.valves import FACE_KINDS
from mockup.engine.valves import Relief, Side
from mockup.quantity.shown import format_bench
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import BENCH_UNIT, Unit
from mockup.readings.sweep import SweepFigure
from mockup.report import Report

SECTION_WIDTH = 300.0


@dataclass(frozen=True, slots=True)
class Dot:
    """One reading on the running basis, with its U as a bar."""

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
    basis: str


@dataclass(frozen=True, slots=True)
class Body:
    """A valve of the section at the first angle: its outline about its own face, and how it leans [deg]."""

    side: str
    outline: str
    transform: str
    pocket: str
    pocket_at: str
    label_x: float


@dataclass(frozen=True, slots=True)
class Section:
    """The chamber in section, to scale, and what every angle makes of it as JSON for the script to choose from."""

    bore: float
    deck_y: float
    gasket: float
    height: float
    bodies: tuple[Body, ...]
    frames: str
    first: int
    last: int
    start: int


@dataclass(frozen=True, slots=True)
class Frame:
    """The section at one angle: its words, where it stands on the chart, crown, and each side's valve and gap."""

    deg: str
    x: float
    crown: float
    at: dict[str, str]
    gaps: dict[str, str]

    def data(self) -> dict[str, object]:
        """The frame as the script reads it."""
        valves = {side: {"at": at, "gap": self.gaps[side]} for side, at in self.at.items()}
        return {"deg": self.deg, "x": self.x, "crown": self.crown, "valves": valves}


def _fitted(report: Report, cylinder: int) -> tuple[list[tuple[SweepFigure, Check, float]], str]:
    """The sweeps of a cylinder that have a fit, each with its check and its way to the basis [mm]; the basis."""
    found: list[tuple[SweepFigure, Check, float | None]] = []
    for figure in report.sweeps:
        if not (figure.closest and figure.settled and figure.closest.has_curve) or figure.place.cylinder != cylinder:
            continue
        for check in report.of_kind(FACE_KINDS[figure.place.side]):
            if (check.cylinder, check.number) != (cylinder, figure.place.number):
                continue
            found.append((figure, check, to_running_mm(figure, check)))
    # One basis for all: as mocked up until every one of them can be carried to the running engine.
    if any(shift is None for _, _, shift in found):
        return [(figure, check, 0.0) for figure, check, _ in found], "as mocked up"
    return [(figure, check, shift or 0.0) for figure, check, shift in found], "as it will run"


def approach_chart(report: Report, cylinder: int) -> CurveChart | None:
    """The chart of one cylinder, None before any valve of it has a fit."""
    fitted, basis = _fitted(report, cylinder)
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
    return CurveChart(curves, angles(), rises(most, unit), x_of(0.0), BENCH_UNIT[unit], basis)


def _highest(figure: SweepFigure) -> float:
    """Of a curve by the drop alone: how high its middle goes [mm]."""
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


def chamber_section(report: Report, cylinder: int) -> Section | None:
    """The section of one cylinder, None before any valve of it has a fit."""
    fitted, _ = _fitted(report, cylinder)
    sides: dict[Side, tuple[SweepFigure, float]] = {}
    for figure, _, shift in fitted:
        sides.setdefault(figure.place.side, (figure, shift))
    if not sides:
        return None
    engine, final = report.job.engine, report.job.final_gasket
    scale = SECTION_WIDTH / engine.sizes.bore_mm
    deck_y = 118.0
    deck = report.deck[cylinder].clearance.value if cylinder in report.deck else 0.0
    low = max(math.ceil(max(f.closest.grid_deg.min() for f, _ in sides.values() if f.closest)), -int(REACH_DEG))
    high = min(math.floor(min(f.closest.grid_deg.max() for f, _ in sides.values() if f.closest)), int(REACH_DEG))
    low, high = (low, high) if low < high else (-int(REACH_DEG), int(REACH_DEG))
    frames = [_frame(report, angle, sides, scale, deck_y, deck) for angle in range(low, high + 1)]
    tightest = next(iter(sides.values()))[0].closest
    start = min(max(round(tightest.angle.value), low), high) if tightest else 0
    bodies = tuple(_body(report, side, scale, frames[start - low].at[str(side)]) for side in sides)
    return Section(
        bore=SECTION_WIDTH,
        deck_y=deck_y,
        gasket=max((final.compressed_mm if final else 1.0) * scale, 1.5),
        height=deck_y + (deck + float(report.crank.travel_mm(REACH_DEG))) * scale + 70,
        bodies=bodies,
        frames=json.dumps([frame.data() for frame in frames], separators=(",", ":")),
        first=low,
        last=high,
        start=start,
    )


def _body(report: Report, side: Side, scale: float, transform: str) -> Body:
    """A valve, and the relief it faces: cut parallel to its face, or nothing on a flat crown."""
    row = report.job.engine.row(side)
    lean = row.inclination_deg * (-1 if side is Side.INTAKE else 1)
    half = _diameter(report, side) / 2 * scale * 1.08
    parallel = row.relief is Relief.PARALLEL and row.inclination_deg
    return Body(
        side=str(side),
        outline=_valve(report, side, scale),
        transform=transform,
        pocket=f"M{-half:.1f},{-half:.1f} V0 H{half:.1f} V{-half:.1f}" if parallel else "",
        pocket_at=f"translate({_middle(side):.1f} 0) rotate({lean:.1f})",
        label_x=_middle(side),
    )


def _middle(side: Side) -> float:
    return SECTION_WIDTH * (0.27 if side is Side.INTAKE else 0.73)


def _diameter(report: Report, side: Side) -> float:
    known = report.job.engine.row(side).diameter_mm
    return known or report.job.engine.sizes.bore_mm * USUAL_DIAMETER[side]


def _frame(
    report: Report, angle: int, sides: dict[Side, tuple[SweepFigure, float]], scale: float, deck_y: float, deck: float
) -> Frame:
    travel = float(report.crank.travel_mm(float(angle)))
    crown = deck_y + (deck + travel) * scale
    at, gaps = {}, {}
    for side, (figure, shift) in sides.items():
        closest = figure.closest
        assert closest is not None
        inside = closest.grid_deg[0] <= angle <= closest.grid_deg[-1]
        gap = float(np.interp(angle, closest.grid_deg, closest.curve_mm)) + shift
        at[str(side)] = _placed(report, side, gap, scale, crown)
        gaps[str(side)] = f"gap {format_bench(gap, report.job.unit)}" if inside else "not read here"
    return Frame(format_crank_angle(float(angle)), x_of(angle), round(crown, 1), at, gaps)


def _placed(report: Report, side: Side, gap_mm: float, scale: float, crown_y: float) -> str:
    """Where a valve stands: its face ``gap_mm`` along its own axis off the floor of its relief."""
    lean = report.job.engine.row(side).inclination_deg * (-1 if side is Side.INTAKE else 1)
    x = _middle(side)
    alpha = math.radians(lean)
    shown = max(gap_mm, 0.0) * scale
    return f"translate({x + math.sin(alpha) * shown:.1f} {crown_y - math.cos(alpha) * shown:.1f}) rotate({lean:.1f})"


def _valve(report: Report, side: Side, scale: float) -> str:
    diameter = _diameter(report, side)
    half, stem = diameter / 2 * scale, max(diameter * 0.09 * scale, 2.5)
    rim = max(1.2 * scale, 2.0)
    knee, neck, back = half * 0.35, -half * 0.9, -rim - half * 0.25
    right = f"M{-half:.1f},0 H{half:.1f} V{-rim:.1f} Q{knee:.1f},{back:.1f} {stem:.1f},{neck:.1f} V-150"
    return f"{right} H{-stem:.1f} V{neck:.1f} Q{-knee:.1f},{back:.1f} {-half:.1f},{-rim:.1f}Z"
