"""Room to move: how far each lever may go alone while all checks stay clear.

The edges are roots of slack(x) on the exact curve of every check, bracketed by a grid and narrowed twice by another,
for all checks at once (``plans/batch.py``), never by slopes. Checked against a search by ``evaluate`` in
tests/core/test_room.py.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import partial

import numpy as np
from numpy.typing import NDArray

from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.checks.check import Check
from mockup.engine.gasket import MOST_SHIMS_MM, THICKEST_MM
from mockup.fit.engine_history import shims_now
from mockup.job import Job
from mockup.limits.judge import SLACK
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever, can_be_made, levers

Curve = NDArray[np.float64]

STEPS = 120
"""Number of steps over a lever's reach; each bracket is divided into as many again, twice."""
CAM_DEG, RATIO, LENGTH_MM, DEEPER_MM, PUSHRODS_MM = 15.0, 0.30, 1.5, 2.5, 2.0
"""How far is searched; nobody goes further in one step. Common practice, no source."""


class OfLobe(StrEnum):
    """What another grind of the same cam may change: its lift alone, or how long it is open."""

    LIFT = "lift at equal duration"
    DURATION = "duration at equal lift"


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """How far one lever may go: its reach, and the interval in which all is clear.

    ``lever``, or what of the lobe is changed: in its own unit, [mm], [deg] or [1], 0 is now; ``low`` and ``high`` are
    None where nothing is clear. ``holds_now``: whether 0 is in the interval. ``low_check``, ``high_check``: what sets
    each end; None where the search ended. ``in_the_way``: what is not clear now. ``unknown``: its effect is not known.
    """

    lever: Lever | OfLobe
    reach: tuple[float, float]
    low: float | None = None
    high: float | None = None
    low_check: Check | None = None
    high_check: Check | None = None
    in_the_way: Check | None = None
    unknown: bool = False

    @property
    def holds_now(self) -> bool:
        """Whether everything is clear now."""
        return self.low is not None and self.high is not None and self.low <= 0 <= self.high

    @property
    def nearest(self) -> float | None:
        """The smallest change that makes everything clear, [mm], [deg] or [1]; 0 if clear now."""
        if self.low is None or self.high is None:
            return None
        return 0.0 if self.holds_now else min((self.low, self.high), key=abs)


def more_lift(rockers: Room, ratio: float) -> float | None:
    """Return how much more lift all checks allow, as a share [1]; None if none or unknown.

    Rockers raise every point of the lobe alike, as more lift at equal duration would. ``ratio``: the present one,
    scalar [1].
    """
    return rockers.high / ratio if rockers.holds_now and rockers.high is not None else None


def rooms(many: Batch) -> tuple[Room, ...]:
    """Return the room of every lever of this engine; empty where nothing is judged."""
    return tuple(_rooms(many)) if many.checks else ()


def levers_of(job: Job) -> tuple[Lever, ...]:
    """Return the levers of an engine, in the order best used."""
    # One cam moves both valves; where there may be two, each is also offered alone.
    return tuple(
        lever
        for lever in levers()
        if can_be_made(lever.kind, job)
        and not (lever.kind is GASKET_CHANGED and job.final_gasket is None)
        and not (lever.kind is CAM_MOVED and lever.side and not job.may_have_two_cams)
    )


def _rooms(many: Batch) -> Iterator[Room]:
    for lever in levers_of(many.report.job):
        yield room_by(partial(_remedy, many, lever), many.checks, lever, reach_of(many, lever))


def _remedy(many: Batch, lever: Lever, amounts: Curve) -> Curve:
    return many.slack({lever: amounts})


def reach_of(many: Batch, lever: Lever) -> tuple[float, float]:
    """Return the range in which a lever is tried, in its unit [mm], [deg] or [1]."""
    job, engine = many.report.job, many.report.engine
    if lever.kind is CAM_MOVED:
        return -CAM_DEG, CAM_DEG
    if lever.kind is ROCKERS_CHANGED:
        return max(-RATIO, 1.0 - engine.ratio), min(RATIO, 3.0 - engine.ratio)
    if lever.kind is GASKET_CHANGED:
        assert job.final_gasket is not None
        now = job.final_gasket.compressed_mm
        return -min(LENGTH_MM, max(now - 0.05, 0.0)), min(LENGTH_MM, THICKEST_MM - now)
    if lever.kind is SHIMS_CHANGED:
        under = [float(shims_now(job, cylinder)) for cylinder in job.engine.cylinder_numbers]
        return -min(LENGTH_MM, *under), min(LENGTH_MM, MOST_SHIMS_MM - max(under))
    if lever.kind is PUSHRODS_CHANGED:
        return -PUSHRODS_MM, PUSHRODS_MM
    return 0.0, DEEPER_MM if lever.kind.of_a_side else LENGTH_MM


def room_by(
    slack_at: Callable[[Curve], Curve], checks: list[Check], lever: Lever | OfLobe, reach: tuple[float, float]
) -> Room:
    """Return the room of one lever; ``slack_at``: each check's slack at amounts (m,).

    Shape (m, checks) [mm] or [1], -inf where it is not known.
    """
    grid = np.unique(np.append(np.linspace(*reach, STEPS + 1), 0.0))
    slack = slack_at(grid)
    now = int(np.searchsorted(grid, 0.0))
    clear = slack.min(axis=1) >= -SLACK
    in_the_way = None if clear[now] else checks[int(np.argmin(slack[now]))]
    moved = np.delete(slack, now, axis=0)
    unknown = bool(len(moved)) and bool(np.isneginf(moved).any(axis=1).all()) and not np.isneginf(slack[now]).any()
    if unknown or not clear.any():
        return Room(lever=lever, reach=reach, in_the_way=in_the_way, unknown=unknown)
    start = now if clear[now] else int(min(np.flatnonzero(clear), key=lambda at: abs(grid[at])))
    first = last = start
    while first > 0 and clear[first - 1]:
        first -= 1
    while last < len(grid) - 1 and clear[last + 1]:
        last += 1

    def edge(inside: int, outside: int) -> tuple[float, Check | None]:
        if not 0 <= outside < len(grid):
            return float(grid[inside]), None
        return _narrowed(slack_at, float(grid[inside]), float(grid[outside]), checks)

    (low, low_check), (high, high_check) = edge(first, first - 1), edge(last, last + 1)
    return Room(
        lever=lever,
        reach=reach,
        low=low,
        high=high,
        low_check=low_check,
        high_check=high_check,
        in_the_way=in_the_way,
    )


def _narrowed(
    slack: Callable[[Curve], Curve], inside: float, outside: float, checks: list[Check]
) -> tuple[float, Check | None]:
    """Return the last clear value between two, and the check that sets it."""
    for _ in range(2):
        grid = np.linspace(inside, outside, STEPS + 1)
        found = slack(grid)
        clear = found.min(axis=1) >= -SLACK
        # From the clear end: the first that is not.
        at = max(int(np.argmin(clear)), 1)
        inside, outside = float(grid[at - 1]), float(grid[at])
    setter = checks[int(np.argmin(found[at]))]
    return inside, setter
