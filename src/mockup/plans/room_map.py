"""Two things changed at once: where every judged check stays clear, how much is left there, and what sets each edge.

Every point is computed by the functions that evaluate calls (``plans/many.py``), 60 by 60 of them at once; lines are
drawn between the points by contourpy. Held against a search by ``evaluate`` in tests/core/test_room_map.py.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from contourpy import LineType, contour_generator
from numpy.typing import NDArray
from scipy.interpolate import RegularGridInterpolator

from mockup.checks.check import Check
from mockup.limits.judge import SLACK
from mockup.plans.levers import Lever
from mockup.plans.many import Curve, Many
from mockup.plans.room import reach_of

POINTS = 60
COARSE = 31
"""How finely is looked for what is clear, before the map is drawn about it."""
CLOSER, CLOSE_ENOUGH = 4, 0.8
"""How often it is looked closer [1], and from which share of its reach on it is close enough."""
Reach = tuple[float, float]
AROUND = 0.5
"""How much of its width is shown either side of what is clear."""


@dataclass(frozen=True, slots=True)
class Line:
    """A line on the map, its points (n, 2) in the levers' own units: [mm], [deg] or [1]."""

    points: NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Edge:
    """What bounds the clear region along some of its edge: a check, and where on the edge it is told."""

    check: Check
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class RoomMap:
    """The map of two levers. ``x`` (nx,) and ``y`` (ny,): how far each is pulled, in its own unit, 0 where it is now.

    ``slacks`` (ny, nx, checks): how far inside its limits each check lies, U counted [mm] or [1]. ``daylight`` (ny,
    nx): the least daylight of all checks that are lengths [mm]; NaN where it is not known. ``nearest``: the clear point
    nearest to how it stands, by shares of both reaches; None where nothing is clear.
    """

    across: Lever
    up: Lever
    x: Curve
    y: Curve
    checks: tuple[Check, ...]
    slacks: Curve
    daylight: Curve
    nearest: tuple[float, float] | None

    @property
    def slack(self) -> Curve:
        """How far inside its limits the tightest check lies, shape (ny, nx) [mm] or [1]."""
        return np.asarray(self.slacks.min(axis=2))

    @property
    def tightest(self) -> NDArray[np.intp]:
        """Which of the checks that is, shape (ny, nx) [1]."""
        return np.asarray(np.argmin(self.slacks, axis=2))

    @property
    def clear(self) -> NDArray[np.bool_]:
        """Where every judged check is clear, shape (ny, nx) [1]."""
        return np.asarray(self.slack >= -SLACK)

    def region(self) -> list[Line]:
        """The edge of the clear region: of every check that bounds it the part of its own edge where no other does.

        Check by check, since between two of them the edge has a corner that no line of the tightest alone can follow.
        """
        found = []
        for setter in self._bounding():
            others = np.delete(self.slacks, setter, axis=2).min(axis=2, initial=np.inf)
            for line in self._lines(self.slacks[:, :, setter], 0.0):
                found += [Line(part) for part in _runs(line.points, self._at(others, line.points) >= -SLACK)]
        return found

    def _at(self, of: Curve, points: Curve) -> Curve:
        """A field between its points, at places (n, 2), shape (n,), in its own unit [mm] or [1]."""
        known = np.nan_to_num(of, posinf=1e6, neginf=-1e6)
        # A line drawn between the outermost points may lie a rounding beyond them.
        inside = np.clip(points, (self.x[0], self.y[0]), (self.x[-1], self.y[-1]))
        return np.asarray(RegularGridInterpolator((self.y, self.x), known)(inside[:, ::-1]))

    def contour(self, daylight_mm: float) -> list[Line]:
        """Where the tightest length leaves so much daylight [mm]."""
        return self._lines(self.daylight, daylight_mm)

    def _lines(self, of: Curve, level: float) -> list[Line]:
        known = np.where(np.isfinite(of), of, np.nan)
        made = contour_generator(self.x, self.y, np.ma.masked_invalid(known), line_type=LineType.Separate)
        lines: list[Any] = list(made.lines(level))
        return [Line(points) for points in lines]

    def edges(self) -> list[Edge]:
        """Which check bounds each part of the edge, told once at the middle of its part, the longest part first."""
        in_order = sorted(self._bounding().items(), key=lambda pair: -len(pair[1]))
        return [Edge(self.checks[setter], *_middle_of(places)) for setter, places in in_order]

    def _bounding(self) -> dict[int, list[tuple[float, float]]]:
        """Which checks are not clear just beyond the clear region, and where."""
        found: dict[int, list[tuple[float, float]]] = {}
        clear, tightest = self.clear, self.tightest
        for step in ((0, 1), (0, -1), (1, 0), (-1, 0)):
            beyond = _shifted(clear, step)
            for row, column in np.argwhere(clear & ~beyond):
                at = (row + step[0], column + step[1])
                setter = int(tightest[at])
                found.setdefault(setter, []).append((float(self.x[at[1]]), float(self.y[at[0]])))
        return found


def _runs(points: Curve, kept: NDArray[np.bool_]) -> list[Curve]:
    """The parts of a line, (n, 2), whose points are kept, each of two points at least, (m, 2)."""
    ends = np.flatnonzero(np.diff(np.concatenate([[0], kept.astype(int), [0]])))
    return [points[first:last] for first, last in zip(ends[::2], ends[1::2], strict=True) if last - first > 1]


def _shifted(clear: NDArray[np.bool_], step: tuple[int, int]) -> NDArray[np.bool_]:
    """Whether the neighbour of each point that way is clear; beyond the map it is as the point itself."""
    padded = np.pad(clear, 1, mode="edge")
    rows, columns = clear.shape
    return np.asarray(padded[1 + step[0] : 1 + step[0] + rows, 1 + step[1] : 1 + step[1] + columns])


def _middle_of(places: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """Of some places the one nearest to their middle."""
    every = np.array(places)
    span = np.maximum(np.ptp(every, axis=0), 1e-9)
    away = (((every - every.mean(axis=0)) / span) ** 2).sum(axis=1)
    x, y = every[int(np.argmin(away))]
    return float(x), float(y)


def room_map(many: Many, across: Lever, up: Lever, points: int = POINTS) -> RoomMap | None:
    """The map of two levers, ``points`` each way; None where nothing is judged, or nobody knows what they would do."""
    if not many.checks or across == up:
        return None
    x, y = (_steps(reach, points) for reach in _focused(many, across, up))
    every_x, every_y = (grid.ravel() for grid in np.meshgrid(x, y))
    found = many.figures({across: every_x, up: every_y})
    shape = (len(y), len(x))
    room = many.room_of(found)
    slack = many.slack_of(found)
    # A window's middle may leave less than U either side; what is short of it on one side is what counts.
    lengths = np.array([check.kind.is_length for check in many.checks])
    least = np.where(np.isnan(room), -np.inf, room)[:, lengths].min(axis=1, initial=np.inf)
    every = slack.min(axis=1).reshape(shape)
    if not np.isfinite(every).any():
        return None
    daylight = np.where(np.isfinite(least), least, np.nan).reshape(shape)
    return RoomMap(
        across=across,
        up=up,
        x=x,
        y=y,
        checks=tuple(many.checks),
        slacks=slack.reshape(*shape, -1),
        daylight=daylight,
        nearest=_nearest(many, across, up, x, y, every),
    )


def _focused(many: Many, across: Lever, up: Lever) -> tuple[Reach, Reach]:
    """The reaches of two levers, narrowed to what is clear and to how it stands, with room about them.

    A region may be smaller than a step: where nothing is clear yet, it is looked closer about the best point.
    """
    whole = (reach_of(many, across), reach_of(many, up))
    reaches, found = whole, False
    for _ in range(CLOSER):
        grids = tuple(_steps(reach, COARSE) for reach in reaches)
        every = [grid.ravel() for grid in np.meshgrid(*grids)]
        slack = np.nan_to_num(many.slack({across: every[0], up: every[1]}).min(axis=1), nan=-np.inf)
        kept = np.flatnonzero(slack >= -SLACK)
        found = found or bool(kept.size)
        kept = kept if kept.size else np.array([int(np.argmax(slack))])
        narrowed = tuple(_about(reach, one[kept]) for reach, one in zip(reaches, every, strict=True))
        shares = [np.ptp(new) / np.ptp(old) for new, old in zip(narrowed, reaches, strict=True)]
        reaches = (narrowed[0], narrowed[1])
        if min(shares) > CLOSE_ENOUGH:
            break
    return reaches if found else whole


def _about(reach: Reach, kept: Curve) -> Reach:
    """A reach narrowed to some of its amounts and to how it stands, with room about them."""
    low, high = min(float(kept.min()), 0.0), max(float(kept.max()), 0.0)
    step = (reach[1] - reach[0]) / (COARSE - 1)
    about = max(AROUND * (high - low), 2 * step)
    return max(low - about, reach[0]), min(high + about, reach[1])


def _steps(reach: tuple[float, float], points: int) -> Curve:
    """Even steps over a reach, one of them exactly where it stands now."""
    grid = np.linspace(*reach, points)
    grid[int(np.argmin(np.abs(grid)))] = 0.0
    return grid


def _nearest(many: Many, across: Lever, up: Lever, x: Curve, y: Curve, slack: Curve) -> tuple[float, float] | None:
    """The nearest clear point: the best of the map, then drawn as near as it stays clear on its straight way there."""
    clear = slack >= -SLACK
    if not clear.any():
        return None
    shares = np.hypot(x[None, :] / max(np.ptp(x), 1e-9), y[:, None] / max(np.ptp(y), 1e-9))
    row, column = np.unravel_index(int(np.argmin(np.where(clear, shares, np.inf))), clear.shape)
    to_x, to_y = float(x[column]), float(y[row])
    if not to_x and not to_y:
        return 0.0, 0.0
    way = np.linspace(0.0, 1.0, 121)
    on_the_way = many.slack({across: way * to_x, up: way * to_y}).min(axis=1) >= -SLACK
    short_of_it = np.flatnonzero(~on_the_way)
    share = float(way[short_of_it[-1] + 1]) if short_of_it.size else 0.0
    return share * to_x, share * to_y
