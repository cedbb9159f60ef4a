"""Two levers at once: where all is clear, how much is left, what sets each edge.

Every point is computed by the functions that ``evaluate`` uses (``plans/batch.py``), 60 by 60 at once; contourpy draws
the lines between them. Checked against a search by ``evaluate`` in tests/core/test_room_map.py.
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
from mockup.plans.batch import Batch, Curve
from mockup.plans.levers import Lever
from mockup.plans.room import reach_of

POINTS = 60
COARSE = 31
"""Grid of the first search for the clear region, before the map is drawn around it."""
CLOSER, CLOSE_ENOUGH = 4, 0.8
"""How often the search is refined [1], and the share of the reach at which it is fine enough."""
Reach = tuple[float, float]
AROUND = 0.5
"""The margin drawn on each side of the clear region, as a share of its width."""


@dataclass(frozen=True, slots=True)
class Line:
    """A line on the map, its points (n, 2) in the levers' own units: [mm], [deg] or [1]."""

    points: NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Edge:
    """A check that bounds part of the clear region's edge, and where on the edge its label goes."""

    check: Check
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class RoomMap:
    """The map of two levers: ``x`` (nx,) and ``y`` (ny,) in their own units, 0 is now.

    ``slacks`` (ny, nx, checks): how far inside its limits each check is, U counted [mm] or [1]. ``margin`` (ny, nx):
    the least margin of all length checks [mm]; NaN where not known. ``nearest``: the clear point nearest to now, by
    shares of both reaches; None where nothing is clear.
    """

    across: Lever
    up: Lever
    x: Curve
    y: Curve
    checks: tuple[Check, ...]
    slacks: Curve
    margin: Curve
    nearest: tuple[float, float] | None

    @property
    def slack(self) -> Curve:
        """How far inside its limits the tightest check is, shape (ny, nx) [mm] or [1]."""
        return np.asarray(self.slacks.min(axis=2))

    @property
    def tightest(self) -> NDArray[np.intp]:
        """The index of the tightest check, shape (ny, nx) [1]."""
        return np.asarray(np.argmin(self.slacks, axis=2))

    @property
    def clear(self) -> NDArray[np.bool_]:
        """Where every judged check is clear, shape (ny, nx) [1]."""
        return np.asarray(self.slack >= -SLACK)

    def region(self) -> list[Line]:
        """Return the edge of the clear region, in parts by the check that bounds it.

        Drawn check by check, since the edge has corners between two checks that a line of the tightest alone cannot
        follow.
        """
        found = []
        for setter in self._bounding():
            others = np.delete(self.slacks, setter, axis=2).min(axis=2, initial=np.inf)
            for line in self._lines(self.slacks[:, :, setter], 0.0):
                found += [Line(part) for part in _runs(line.points, self._at(others, line.points) >= -SLACK)]
        return found

    def _at(self, of: Curve, points: Curve) -> Curve:
        """Return a field interpolated at places (n, 2), shape (n,), in its own unit [mm] or [1]."""
        known = np.nan_to_num(of, posinf=1e6, neginf=-1e6)
        # A line drawn between the outermost points may be beyond them by a rounding error.
        inside = np.clip(points, (self.x[0], self.y[0]), (self.x[-1], self.y[-1]))
        return np.asarray(RegularGridInterpolator((self.y, self.x), known)(inside[:, ::-1]))

    def contour(self, margin_mm: float) -> list[Line]:
        """Return where the tightest length has this margin left [mm]."""
        return self._lines(self.margin, margin_mm)

    def _lines(self, of: Curve, level: float) -> list[Line]:
        known = np.where(np.isfinite(of), of, np.nan)
        made = contour_generator(self.x, self.y, np.ma.masked_invalid(known), line_type=LineType.Separate)
        lines: list[Any] = list(made.lines(level))
        return [Line(points) for points in lines]

    def edges(self) -> list[Edge]:
        """Return which check bounds each part of the edge, longest part first, labelled once."""
        in_order = sorted(self._bounding().items(), key=lambda pair: -len(pair[1]))
        return [Edge(self.checks[setter], *_middle_of(places)) for setter, places in in_order]

    def _bounding(self) -> dict[int, list[tuple[float, float]]]:
        """Return which checks are not clear just outside the clear region, and where."""
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
    """Return the parts of a line (n, 2) whose points are kept, each (m, 2) with m > 1."""
    ends = np.flatnonzero(np.diff(np.concatenate([[0], kept.astype(int), [0]])))
    return [points[first:last] for first, last in zip(ends[::2], ends[1::2], strict=True) if last - first > 1]


def _shifted(clear: NDArray[np.bool_], step: tuple[int, int]) -> NDArray[np.bool_]:
    """Return whether each point's neighbour one way is clear; at the rim the point itself."""
    padded = np.pad(clear, 1, mode="edge")
    rows, columns = clear.shape
    return np.asarray(padded[1 + step[0] : 1 + step[0] + rows, 1 + step[1] : 1 + step[1] + columns])


def _middle_of(places: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """Return the place nearest to the middle of some places."""
    every = np.array(places)
    span = np.maximum(np.ptp(every, axis=0), 1e-9)
    away = (((every - every.mean(axis=0)) / span) ** 2).sum(axis=1)
    x, y = every[int(np.argmin(away))]
    return float(x), float(y)


def room_map(many: Batch, across: Lever, up: Lever, points: int = POINTS) -> RoomMap | None:
    """Return the map of two levers, ``points`` each way; None if nothing is judged or known."""
    if not many.checks or across == up:
        return None
    x, y = (_steps(reach, points) for reach in _focused(many, across, up))
    every_x, every_y = (grid.ravel() for grid in np.meshgrid(x, y))
    found = many.figures({across: every_x, up: every_y})
    shape = (len(y), len(x))
    room = many.room_of(found)
    slack = many.slack_of(found)
    # The middle of a window may leave less than U on both sides; only the short side counts.
    lengths = np.array([check.kind.is_length for check in many.checks])
    least = np.where(np.isnan(room), -np.inf, room)[:, lengths].min(axis=1, initial=np.inf)
    every = slack.min(axis=1).reshape(shape)
    if not np.isfinite(every).any():
        return None
    margin = np.where(np.isfinite(least), least, np.nan).reshape(shape)
    return RoomMap(
        across=across,
        up=up,
        x=x,
        y=y,
        checks=tuple(many.checks),
        slacks=slack.reshape(*shape, -1),
        margin=margin,
        nearest=_nearest(many, across, up, x, y, every),
    )


def _focused(many: Batch, across: Lever, up: Lever) -> tuple[Reach, Reach]:
    """Return two levers' reaches, narrowed to the clear region and now, with a margin.

    A region may be smaller than a step: where nothing is clear yet, the search continues around the best point.
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
    """Return a reach narrowed to some of its amounts and the present point, with a margin."""
    low, high = min(float(kept.min()), 0.0), max(float(kept.max()), 0.0)
    step = (reach[1] - reach[0]) / (COARSE - 1)
    about = max(AROUND * (high - low), 2 * step)
    return max(low - about, reach[0]), min(high + about, reach[1])


def _steps(reach: tuple[float, float], points: int) -> Curve:
    """Return even steps over a reach, one of them exactly at the present point."""
    grid = np.linspace(*reach, points)
    grid[int(np.argmin(np.abs(grid)))] = 0.0
    return grid


def _nearest(many: Batch, across: Lever, up: Lever, x: Curve, y: Curve, slack: Curve) -> tuple[float, float] | None:
    """Return the nearest clear point: the map's best, moved toward now while clear."""
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
