"""Lobes as curves: lift over crank degrees from the middle, from a card or a table.

A card gives lift(x) = L (1 - |x/w|^a)^b for |x| < w, else 0. For durations d1 > d2 at checking lifts h1 < h2, a = ln((1
- (h1/L)^(1/b)) / (1 - (h2/L)^(1/b))) / ln(d1/d2) rises with b. The a nearest 2.6 within 1.5 to 5 that a b of 1.3 to 12
allows is taken. The curve meets the given durations exactly and is an estimate between them. Derived in
docs/how-it-computes.md, "Lobes". A table is a cubic spline (scipy).
"""

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.base.faults import Fault, FaultsError
from mockup.engine.cam import Duration, LiftAt, LobeCard, LobeTable, TableZero
from mockup.quantity.solvers import natural_spline, root_between
from mockup.quantity.value import MM_PER_INCH

USUAL_A, USUAL_B = 2.6, 3.5
RANGE_A, RANGE_B = (1.5, 5.0), (1.3, 12.0)
CENTRED_AT_MM = 0.050 * MM_PER_INCH
COARSE_STEP_DEG = 10.0

Curve = NDArray[np.float64]


class Lobe(Protocol):
    """A lobe: lift over crank degrees from its middle."""

    @property
    def lift_max_mm(self) -> float:
        """Maximum lift [mm]."""
        ...

    @property
    def measured(self) -> bool:
        """Whether the lobe was measured; False for an estimate from a card."""
        ...

    def lift_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return the lift at the lobe, any shape [deg] in, the same shape [mm] out."""
        ...

    def flanks_deg(self, at_mm: float) -> tuple[float, float]:
        """Return where it opens and closes at a lift, from its middle [deg].

        ValueError at its maximum or above.
        """
        ...

    def modes_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return each open mode's lift at one standard deviation: (n,) [deg] in, (n, modes) [mm]."""
        ...


@dataclass(frozen=True, slots=True)
class CardLobe:
    """A lobe of the family: L [mm], w [deg], a and b [1].

    ``third_missed_deg``: the error at a third duration of its card [deg].
    """

    lift_max_mm: float
    half_width_deg: float
    a: float
    b: float
    third_missed_deg: float = 0.0

    @property
    def measured(self) -> bool:
        """Always False."""
        return False

    def lift_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return the lift at the lobe, any shape [deg] in, the same shape [mm] out."""
        x = np.abs(np.asarray(from_middle_deg, dtype=float)) / self.half_width_deg
        return np.asarray(self.lift_max_mm * np.clip(1 - x**self.a, 0.0, None) ** self.b)

    def flanks_deg(self, at_mm: float) -> tuple[float, float]:
        """Return where it opens and closes at a lift, from its middle [deg]."""
        if not 0 <= at_mm < self.lift_max_mm:
            raise ValueError("The lobe does not reach that lift.")
        half = self.half_width_deg * (1 - (at_mm / self.lift_max_mm) ** (1 / self.b)) ** (1 / self.a)
        return -half, half

    def modes_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return shape (n, 0) [mm] for any (n,) angles [deg]: a smooth lobe has no open modes."""
        return np.zeros((np.size(from_middle_deg), 0))


class TableLobe:
    """A lobe measured point by point; zero beyond its ends, where its lift was under 0.05 mm."""

    def __init__(self, table: LobeTable, ratio: float = 1.0) -> None:
        self.angles = np.asarray(table.angles_deg, dtype=float)
        per = ratio if table.at is LiftAt.VALVE else 1.0
        self.lifts = np.asarray(table.lifts_mm, dtype=float) / per
        self.u_mm = table.u_mm / per
        self.measured = True
        self.spline = natural_spline(self.angles, self.lifts)
        self.middle = 0.0
        self.middle = self._middle(table.zero)

    @property
    def coarse(self) -> bool:
        """Whether its points are so far apart that the curve is uncertain by a few thou."""
        return bool(np.diff(self.angles).max() > COARSE_STEP_DEG)

    @cached_property
    def lift_max_mm(self) -> float:
        """Maximum lift [mm]."""
        return float(self.spline(self._top()))

    def lift_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return the lift at the lobe, any shape [deg] in, the same shape [mm] out."""
        x = np.asarray(from_middle_deg, dtype=float) + self.middle
        inside = (x >= self.angles[0]) & (x <= self.angles[-1])
        return np.asarray(np.where(inside, np.clip(self.spline(x), 0.0, None), 0.0))

    def flanks_deg(self, at_mm: float) -> tuple[float, float]:
        """Return where it opens and closes at a lift, from its middle [deg]."""
        top = self._top()
        if not 0 <= at_mm < self.lift_max_mm:
            raise ValueError("The lobe does not reach that lift.")
        crossings = np.asarray(self.spline.solve(at_mm, extrapolate=False), dtype=float)
        before, after = crossings[crossings < top], crossings[crossings > top]
        opens = before.max() if before.size else self.angles[0]
        closes = after.min() if after.size else self.angles[-1]
        return float(opens) - self.middle, float(closes) - self.middle

    def modes_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return shape (n, 0) [mm] for (n,) angles [deg]: a measured lobe has no open modes."""
        return np.zeros((np.size(from_middle_deg), 0))

    def _top(self) -> float:
        tops = np.asarray(self.spline.derivative().roots(extrapolate=False), dtype=float)
        candidates = np.append(tops, self.angles[int(np.argmax(self.lifts))])
        return float(candidates[int(np.argmax(self.spline(candidates)))])

    def _middle(self, zero: TableZero) -> float:
        if zero is TableZero.MAXIMUM or self.lift_max_mm <= CENTRED_AT_MM:
            return self._top()
        opens, closes = self.flanks_deg(CENTRED_AT_MM)
        return (opens + closes) / 2


@lru_cache(maxsize=256)
def card_lobe(card: LobeCard) -> CardLobe:
    """Return the lobe of a card.

    Raises FaultsError where no lobe of the family has its durations.

    One duration: a = 2.6, b = 3.5. Two are met exactly. A third is met where an a in 1.5 to 5 allows it; otherwise the
    lobe says by how much it misses.
    """
    ordered = sorted(card.durations, key=lambda duration: duration.at_mm)
    if len(ordered) == 1:
        return CardLobe(card.lift_mm, _half_width(card.lift_mm, ordered[0], USUAL_A, USUAL_B), USUAL_A, USUAL_B)
    low, high = ordered[0], ordered[-1]
    least, most = (max(_a_of(b, card.lift_mm, low, high), 0.0) for b in RANGE_B)
    least, most = max(least, RANGE_A[0]), min(most, RANGE_A[1])
    if least > most:
        words = "No smooth lobe has this lift and these durations. Check the checking lifts and the lobe lift."
        raise FaultsError([Fault("durations", words)])
    usual = min(max(USUAL_A, least), most)
    if len(ordered) == 2:
        return _with_a(card, usual, low, high)
    return _third(card, ordered, (least, most), usual)


@lru_cache(maxsize=64)
def table_lobe(table: LobeTable, ratio: float) -> TableLobe:
    """Return the lobe of a table measured at this rocker ratio [1].

    Cached, because a table never changes.
    """
    return TableLobe(table, ratio)


def _third(card: LobeCard, ordered: list[Duration], allowed: tuple[float, float], usual: float) -> CardLobe:
    low, middle, high = ordered

    def missed(a: float) -> float:
        opens, closes = _with_a(card, a, low, high).flanks_deg(middle.at_mm)
        return closes - opens - middle.deg

    ends = [missed(a) for a in allowed]
    if ends[0] * ends[1] <= 0:
        return _with_a(card, root_between(missed, *allowed, xtol=1e-10), low, high)
    nearest = allowed[int(np.argmin(np.abs(ends)))]
    found = _with_a(card, nearest if abs(missed(nearest)) < abs(missed(usual)) else usual, low, high)
    return CardLobe(found.lift_max_mm, found.half_width_deg, found.a, found.b, missed(found.a))


def _a_of(b: float, lift_mm: float, low: Duration, high: Duration) -> float:
    parts = [1 - (duration.at_mm / lift_mm) ** (1 / b) for duration in (low, high)]
    return math.log(parts[0] / parts[1]) / math.log(low.deg / high.deg)


def _with_a(card: LobeCard, a: float, low: Duration, high: Duration) -> CardLobe:
    ends = [_a_of(b, card.lift_mm, low, high) - a for b in RANGE_B]
    if ends[0] >= 0:
        b = RANGE_B[0]
    elif ends[1] <= 0:
        b = RANGE_B[1]
    else:
        b = root_between(lambda b: _a_of(b, card.lift_mm, low, high) - a, *RANGE_B, xtol=1e-12)
    return CardLobe(card.lift_mm, _half_width(card.lift_mm, low, a, b), a, b)


def _half_width(lift_mm: float, duration: Duration, a: float, b: float) -> float:
    reached: float = (1 - (duration.at_mm / lift_mm) ** (1 / b)) ** (1 / a)
    return duration.deg / 2 / reached
