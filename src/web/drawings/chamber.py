"""The chamber of a cylinder in section, to scale, at angles about overlap TDC."""

import json
import math
from dataclasses import dataclass

import numpy as np

from mockup.changes.pistons import USUAL_DIAMETER
from mockup.engine.valves import Relief, Side
from mockup.fit.swept_valve import SweepFigure
from mockup.quantity.shown import format_bench
from mockup.quantity.typed_angle import format_crank_angle
from mockup.report import Report
from web.drawings.approach import fitted_of
from web.drawings.overlap import REACH_DEG, x_of

SECTION_WIDTH = 300.0


@dataclass(frozen=True, slots=True)
class Body:
    """A valve of the section at the first angle: outline when shut, seat and port."""

    side: str
    outline: str
    transform: str
    shut_at: str
    seat: str
    port: str
    pocket: str
    pocket_at: str
    label_x: float
    gap: str
    long: float


@dataclass(frozen=True, slots=True)
class Section:
    """The chamber in section, to scale, with every angle as JSON for the script."""

    bore: float
    deck_y: float
    gasket: float
    height: float
    roof: str
    bodies: tuple[Body, ...]
    frames: str
    first: int
    last: int
    start: int
    crown: float
    words: str


@dataclass(frozen=True, slots=True)
class Frame:
    """The section at one angle: words, place on the chart, crown, valves and gaps."""

    deg: str
    x: float
    crown: float
    at: dict[str, str]
    gaps: dict[str, str]
    lengths: dict[str, float]
    turned: int

    def data(self) -> dict[str, object]:
        """Return the frame for the script."""
        valves = {side: {"at": at, "gap": self.gaps[side], "long": self.lengths[side]} for side, at in self.at.items()}
        return {"deg": self.deg, "x": self.x, "crown": self.crown, "turned": self.turned, "valves": valves}


def chamber_section(report: Report, cylinder: int) -> Section | None:
    """Return the section of one cylinder, None before any of its valves has a fit."""
    fitted, _ = fitted_of(report, cylinder)
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
    crown_y = deck_y + deck * scale
    shut = {side: _shut_at(side, figure, shift, report, (scale, crown_y)) for side, (figure, shift) in sides.items()}
    at_start = frames[start - low]
    bodies = tuple(_body(report, side, scale, at_start, shut[side]) for side in sides)
    return Section(
        bore=SECTION_WIDTH,
        deck_y=deck_y,
        gasket=max((final.compressed_mm if final else 1.0) * scale, 1.5),
        height=deck_y + (deck + float(report.crank.travel_mm(REACH_DEG))) * scale + 70,
        roof=_roof(report, shut, scale, deck_y),
        bodies=bodies,
        frames=json.dumps([frame.data() for frame in frames], separators=(",", ":")),
        first=low,
        last=high,
        start=start,
        crown=at_start.crown,
        words=f"{at_start.deg}; " + "; ".join(f"{body.side} {body.gap}" for body in bodies),
    )


def _body(report: Report, side: Side, scale: float, frame: Frame, shut: tuple[float, float, float]) -> Body:
    """Return a valve and the relief it faces: parallel to it, or nothing if flat."""
    row = report.job.engine.row(side)
    lean = row.inclination_deg * (-1 if side is Side.INTAKE else 1)
    half = _diameter(report, side) / 2 * scale * 1.08
    face, rim = _diameter(report, side) / 2 * scale, max(1.2 * scale, 2.0)
    x, y, tilt = shut
    parallel = row.relief is Relief.PARALLEL and row.inclination_deg
    return Body(
        side=str(side),
        outline=_valve(report, side, scale),
        transform=frame.at[str(side)],
        shut_at=f"translate({x:.1f} {y:.1f}) rotate({tilt:.1f})",
        seat=" ".join(
            f"M{way * face * 0.86:.1f},{-rim:.1f} H{way * face * 1.14:.1f} v-7 H{way * face * 0.86:.1f}Z"
            for way in (-1, 1)
        ),
        port=f"M{-face * 0.86:.1f},{-rim:.1f} V-150 H{face * 0.86:.1f} V{-rim:.1f}Z",
        pocket=f"M{-half:.1f},{-half:.1f} V0 H{half:.1f} V{-half:.1f}" if parallel else "",
        pocket_at=f"translate({_middle(side):.1f} 0) rotate({lean:.1f})",
        label_x=_middle(side),
        gap=frame.gaps[str(side)],
        long=frame.lengths[str(side)],
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
    at, gaps, lengths = {}, {}, {}
    for side, (figure, shift) in sides.items():
        closest = figure.closest
        assert closest is not None
        inside = closest.grid_deg[0] <= angle <= closest.grid_deg[-1]
        gap = float(np.interp(angle, closest.grid_deg, closest.curve_mm)) + shift
        at[str(side)] = _placed(report, side, gap, scale, crown)
        lengths[str(side)] = round(max(gap, 0.0) * scale, 1)
        gaps[str(side)] = f"gap {format_bench(gap, report.job.unit)}" if inside else "not read here"
    return Frame(format_crank_angle(float(angle)), x_of(angle), round(crown, 1), at, gaps, lengths, angle)


def _placed(report: Report, side: Side, gap_mm: float, scale: float, crown_y: float) -> str:
    """Return a valve's position: its face ``gap_mm`` along its axis above its relief."""
    lean = report.job.engine.row(side).inclination_deg * (-1 if side is Side.INTAKE else 1)
    x = _middle(side)
    alpha = math.radians(lean)
    shown = max(gap_mm, 0.0) * scale
    return f"translate({x + math.sin(alpha) * shown:.1f} {crown_y - math.cos(alpha) * shown:.1f}) rotate({lean:.1f})"


USUAL_LIFT_MM = 3.0
"""The assumed lift at TDC where no lobe tells it; only the drawn seat depends on it."""


def _shut_at(
    side: Side, figure: SweepFigure, shift: float, report: Report, place: tuple[float, float]
) -> tuple[float, float, float]:
    """Return where a shut valve is: its face across and down, its lean [deg]."""
    scale, crown_y = place
    closest = figure.closest
    assert closest is not None
    at_tdc = float(np.interp(0.0, closest.grid_deg, closest.curve_mm))
    drop = (closest.fitted.drop.value if closest.fitted else at_tdc + USUAL_LIFT_MM) + shift
    lean = report.job.engine.row(side).inclination_deg * (-1 if side is Side.INTAKE else 1)
    alpha, up = math.radians(lean), drop * scale
    return _middle(side) + math.sin(alpha) * up, crown_y - math.cos(alpha) * up, lean


def _roof(report: Report, shut: dict[Side, tuple[float, float, float]], scale: float, deck_y: float) -> str:
    """Return the open chamber: up each wall to the seats' planes and across."""

    def height(side: Side, x: float) -> float:
        middle, y, lean = shut[side]
        return min(max(y + (x - middle) * math.tan(math.radians(lean)), 16.0), deck_y - 6.0)

    left, right = 6.0, SECTION_WIDTH - 6.0
    first, last = (min(shut, key=lambda side: shut[side][0]), max(shut, key=lambda side: shut[side][0]))
    inner = [shut[side][0] + way * _diameter(report, side) / 2 * scale for side, way in ((first, 1), (last, -1))]
    points = [(left, deck_y), (left, height(first, left))]
    if first is last:
        points.append((right, height(first, right)))
    else:
        points += [
            (inner[0], height(first, inner[0])),
            (inner[1], height(last, inner[1])),
            (right, height(last, right)),
        ]
    points.append((right, deck_y))
    return "M" + " L".join(f"{x:.1f},{y:.1f}" for x, y in points) + "Z"


def _valve(report: Report, side: Side, scale: float) -> str:
    diameter = _diameter(report, side)
    half, stem = diameter / 2 * scale, max(diameter * 0.09 * scale, 2.5)
    rim = max(1.2 * scale, 2.0)
    knee, neck, back = half * 0.35, -half * 0.9, -rim - half * 0.25
    right = f"M{-half:.1f},0 H{half:.1f} V{-rim:.1f} Q{knee:.1f},{back:.1f} {stem:.1f},{neck:.1f} V-150"
    return f"{right} H{-stem:.1f} V{neck:.1f} Q{-knee:.1f},{back:.1f} {-half:.1f},{-rim:.1f}Z"
