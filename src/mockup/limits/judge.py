"""Judging one figure against its limit: clear, too close to call, short, or not measured.

Source: JCGM 106:2012 and ISO 14253-1: the uncertainty counts against the party claiming conformity. The guard band here
is U = k u at two standard deviations, stricter than the 1.65u that ISO 14253-1:2017 takes by default (from memory).
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mockup.quantity.value import Value

SLACK = 1e-6
"""Comparisons of a figure with its limit allow this much (mm, or ratio): in binary 0.103 - 0.003 < 0.1."""


class State(StrEnum):
    """The state of a figure; ``QUESTIONED``: clear, but an open question contradicts it."""

    CLEAR = "clear"
    CLOSE = "too close to call"
    SHORT = "short"
    OVER = "over"
    NOT_MEASURED = "not measured"
    QUESTIONED = "in question"
    NO_MINIMUM = "no minimum set"


class Bound(StrEnum):
    """Whether the true value is at the figure, or the figure only bounds it."""

    EXACT = "exact"
    AT_MOST = "at most"
    AT_LEAST = "at least"
    ABOUT = "about"


@dataclass(frozen=True, slots=True)
class Limit:
    """A minimum, or a window: ``low`` and ``high`` in the figure's unit, None where open.

    ``source`` says who asks for it; ``edited`` whether this build departs from its set of limits.
    """

    low: float | None = None
    high: float | None = None
    source: str = ""
    edited: bool = False

    @property
    def is_set(self) -> bool:
        """Whether there is a limit to judge against."""
        return self.low is not None or self.high is not None


def judge(figure: Value | None, limit: Limit, bound: Bound = Bound.EXACT) -> State:
    """Judge ``figure`` +- U against ``limit``.

    clear: y - U >= low (and y + U <= high); short: y + U < low; over: y - U > high; otherwise too close to call. An
    upper bound of the truth (``Bound.AT_MOST``) can be short but proves nothing else; a lower bound
    (``Bound.AT_LEAST``, clay that was not touched) can be clear but never short. An estimate (``Bound.ABOUT``) can be
    short beyond its U, and proves nothing else.
    """
    if figure is None:
        return State.NOT_MEASURED
    if not limit.is_set:
        return State.NO_MINIMUM
    least, most = figure.value - figure.expanded, figure.value + figure.expanded
    low_held = limit.low is None or least >= limit.low - SLACK
    high_held = limit.high is None or most <= limit.high + SLACK
    if bound is Bound.AT_LEAST:
        return State.CLEAR if limit.high is None and low_held else State.NOT_MEASURED
    if limit.low is not None and most < limit.low - SLACK:
        return State.SHORT
    if bound in (Bound.AT_MOST, Bound.ABOUT):
        return State.NOT_MEASURED
    if limit.high is not None and least > limit.high + SLACK:
        return State.OVER
    return State.CLEAR if low_held and high_held else State.CLOSE


def slack(figure: Value, limit: Limit) -> float:
    """Return how far inside its limit a figure is [mm or 1], U counted; infinite if open.

    For a batch of engines an array, shape (m,).
    """
    rooms: list[float] = []
    if limit.low is not None:
        rooms.append(figure.value - figure.expanded - limit.low)
    if limit.high is not None:
        rooms.append(limit.high - figure.value - figure.expanded)
    least: float = np.minimum.reduce(np.broadcast_arrays(*rooms)) if rooms else math.inf
    return least


def margin(figure: Value | None, limit: Limit) -> float | None:
    """Return what is left inside the limit, y - m; negative where it is short.

    In the same unit as the figure; None without a figure or a limit.
    """
    if figure is None or not limit.is_set:
        return None
    rooms = []
    if limit.low is not None:
        rooms.append(figure.value - limit.low)
    if limit.high is not None:
        rooms.append(limit.high - figure.value)
    return min(rooms)
