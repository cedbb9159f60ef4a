"""A card as an uncertain lobe: its smooth lobe, real lobes' departure, their scatter.

lobe(x) = L (f(x; card) + m(z) + sum a_j phi_j(z)), z = x / half the duration at 0.050 in, a ~ N(0, 1)

f is ``mockup.motion.lobes.card_lobe``; m and phi, scaled by their standard deviations, are the table beside this file,
learnt from made-up lobes (``learning.modes``). What the card states (durations as printed, lift at TDC, events) are
linear rows that narrow a. Source: conditioning of a Gaussian on linear observations, any text on linear estimation
(e.g. Rasmussen and Williams, Gaussian Processes, A.2); maths in docs/how-it-computes.md, "A card is an uncertain lobe".
"""

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache, cached_property, lru_cache
from importlib.resources import files

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.base.faults import Fault, FaultsError
from mockup.engine.cam import Duration, LobeCard
from mockup.motion.lobes import USUAL_A, USUAL_B, CardLobe, card_lobe
from mockup.quantity.value import MM_PER_INCH, rectangular

Curve = NDArray[np.float64]

TABLE = files("mockup.motion") / "lobe_modes.json"
PRINTED_U_DEG = rectangular(0.5)
"""A duration or an event is printed in whole degrees."""
PRINTED_U_MM = rectangular(0.0005 * MM_PER_INCH)
"""A lift is printed in whole thou."""
CENTRED_U_DEG = 0.1
"""Angles count from the middle at 0.050 in: its u once the durations are met."""
CHECKED_MM = 0.050 * MM_PER_INCH
LOW_SHARE = 0.43
"""On a lobe too low for 0.050 in, this share of its lift is used instead."""
FINE_DEG = 0.25
IMPOSSIBLE_DEG = 20.0
"""A duration missed by more is a typing error: our own bound."""


@dataclass(frozen=True, slots=True)
class CardLift:
    """A lift that a card states at one angle: ``lift_mm`` +- u at ``x_deg`` from the middle.

    ``u_deg``: standard uncertainty of the angle [deg].
    """

    x_deg: float
    lift_mm: float
    u_deg: float


@cache
def _shapes(kind: str) -> tuple[Curve, Curve, Curve]:
    """Return z (n,), the mean departure (n,) and the modes (n, m), as shares of the lift."""
    table = json.loads(TABLE.read_text(encoding="utf-8"))
    low, high, count = table["z"]
    return np.linspace(low, high, count), np.array(table[kind]["mean"]), np.array(table[kind]["modes"]).T


def half_width_deg(lobe: CardLobe) -> float:
    """Return half a smooth lobe's duration at 0.050 in [deg], which scales departures."""
    return lobe.flanks_deg(min(CHECKED_MM, LOW_SHARE * lobe.lift_max_mm))[1]


def smooth_lobe(card: LobeCard) -> CardLobe:
    """Return the smooth lobe by the lowest duration and the one nearest to 0.050 in.

    The first alone is used where there is no other, or where no smooth lobe has both; the second then becomes a row
    like the third.
    """
    near = min(card.durations, key=lambda one: abs(math.log(one.at_mm / CHECKED_MM)))
    low = min(card.durations, key=lambda one: one.at_mm)
    if low is not near:
        try:
            return card_lobe(replace(card, durations=(low, near)))
        except FaultsError:
            pass
    return card_lobe(replace(card, durations=(near,)))


class UncertainLobe:
    """The lobe of a card with everything the card leaves open.

    Equal only to itself; one object for each card.
    """

    measured = False

    def __init__(self, card: LobeCard, told: Sequence[CardLift] = ()) -> None:
        self.smooth = smooth_lobe(card)
        self.printed = {one.at_mm: one.deg for one in card.durations}
        self.lift_max_mm = self.smooth.lift_max_mm
        self.half_deg = half_width_deg(self.smooth)
        z, mean, modes = _shapes("one" if (self.smooth.a, self.smooth.b) == (USUAL_A, USUAL_B) else "two")
        self.x_deg = z * self.half_deg
        lift = self.lift_max_mm
        rows, wanted = self._rows(card, told, mean, modes)
        # The posterior of a: precision I + R'R, mean from the rows; its modes are the square root of its covariance.
        precision = np.eye(modes.shape[1]) + rows.T @ rows
        root = np.linalg.cholesky(np.linalg.inv(precision))
        settled = np.linalg.solve(precision, rows.T @ wanted)
        self.departure_mm = lift * (mean + modes @ settled)
        self.modes_table_mm = lift * modes @ root

    def _rows(self, card: LobeCard, told: Sequence[CardLift], mean: Curve, modes: Curve) -> tuple[Curve, Curve]:
        """Return what the card states as rows over their u: matrix (r, m) and right-hand side (r,)."""
        found = [self._span_row(one, mean, modes) for one in card.durations]
        found.append(self._middle_row(mean, modes))
        found += [self._lift_row(one.x_deg, one.lift_mm, one.u_deg, mean, modes) for one in told]
        return np.array([row for row, _ in found]), np.array([one for _, one in found])

    def _at(self, x_deg: float, mean: Curve, modes: Curve) -> tuple[float, Curve, float]:
        """Return mean departure, modes [mm] and the smooth slope at one angle, in [mm] a degree."""
        lift = self.lift_max_mm
        here = lift * np.array([np.interp(x_deg, self.x_deg, column) for column in modes.T])
        before, after = self.smooth.lift_mm([x_deg - 0.05, x_deg + 0.05])
        slope = max(abs(float(after - before)) / 0.1, 1e-4)
        return lift * float(np.interp(x_deg, self.x_deg, mean)), here, slope

    def _span_row(self, one: Duration, mean: Curve, modes: Curve) -> tuple[Curve, float]:
        # At the duration's ends, if its middle is the lobe's, the mean lift is the checking lift.
        low, high = self._at(-one.deg / 2, mean, modes), self._at(one.deg / 2, mean, modes)
        smooth = float(self.smooth.lift_mm(one.deg / 2))
        u = max(low[2], high[2]) * PRINTED_U_DEG / 2 + 0.01
        return (low[1] + high[1]) / 2 / u, (one.at_mm - smooth - (low[0] + high[0]) / 2) / u

    def _middle_row(self, mean: Curve, modes: Curve) -> tuple[Curve, float]:
        low, high = self._at(-self.half_deg, mean, modes), self._at(self.half_deg, mean, modes)
        row = (high[1] / high[2] - low[1] / low[2]) / 2
        return row / CENTRED_U_DEG, -(high[0] / high[2] - low[0] / low[2]) / 2 / CENTRED_U_DEG

    def _lift_row(self, x_deg: float, lift_mm: float, u_deg: float, mean: Curve, modes: Curve) -> tuple[Curve, float]:
        off, here, slope = self._at(x_deg, mean, modes)
        u = float(np.hypot(PRINTED_U_MM, slope * u_deg))
        return here / u, (lift_mm - float(self.smooth.lift_mm(x_deg)) - off) / u

    def lift_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return the most likely lift at the lobe, any shape [deg] in, the same shape [mm] out."""
        x = np.asarray(from_middle_deg, dtype=float)
        off = np.interp(x, self.x_deg, self.departure_mm, left=0.0, right=0.0)
        return np.asarray(np.clip(self.smooth.lift_mm(x) + off, 0.0, self.lift_max_mm))

    def modes_mm(self, from_middle_deg: ArrayLike) -> Curve:
        """Return each open mode's lift at one standard deviation: (n,) [deg] in, (n, modes) [mm]."""
        x = np.asarray(from_middle_deg, dtype=float)
        place = np.clip((x - self.x_deg[0]) / (self.x_deg[1] - self.x_deg[0]), 0.0, len(self.x_deg) - 1.000001)
        at = place.astype(np.intp)
        share = (place - at)[:, None]
        return np.asarray(self.modes_table_mm[at] * (1 - share) + self.modes_table_mm[at + 1] * share)

    def flanks_deg(self, at_mm: float) -> tuple[float, float]:
        """Return opening and closing at a lift from the middle [deg], apart by the duration.

        Raises ValueError at its maximum lift or above.
        """
        if at_mm in self.printed and at_mm < self.lift_max_mm:
            return -self.printed[at_mm] / 2, self.printed[at_mm] / 2
        return self.likely_flanks_deg(at_mm)

    def likely_flanks_deg(self, at_mm: float) -> tuple[float, float]:
        """Return the likely opening and closing at a lift without the card's durations [deg]."""
        if not 0 <= at_mm < self.lift_max_mm:
            raise ValueError("The lobe does not reach that lift.")
        x, lift, top = self._fine
        if not at_mm:
            open_at = np.flatnonzero(lift > 1e-4)
            return float(x[open_at[0]]), float(x[open_at[-1]])
        below = np.flatnonzero(lift[:top] <= at_mm)
        before = below[-1] if below.size else 0
        after = top + int(np.argmax(lift[top:] <= at_mm))
        return _crossing(x, lift, before, at_mm), _crossing(x, lift, after - 1, at_mm)

    @cached_property
    def _fine(self) -> tuple[Curve, Curve, int]:
        reach = self.x_deg[-1] + 10
        x = np.arange(-reach, reach + FINE_DEG, FINE_DEG)
        lift = self.lift_mm(x)
        return x, lift, int(np.argmax(lift))


def _crossing(x: Curve, lift: Curve, at: int, at_mm: float) -> float:
    rise = lift[at + 1] - lift[at]
    return float(x[at] + (at_mm - lift[at]) / rise * (x[at + 1] - x[at])) if rise else float(x[at])


def refuse_impossible(card: LobeCard) -> None:
    """Raise FaultsError where no lobe has the card's lift and durations."""
    lobe = uncertain_lobe(card)
    for one in card.durations:
        opens, closes = lobe.likely_flanks_deg(one.at_mm)
        if abs(closes - opens - one.deg) > IMPOSSIBLE_DEG:
            words = "No smooth lobe has this lift and these durations. Check the checking lifts and the lobe lift."
            raise FaultsError([Fault("durations", words)])


@lru_cache(maxsize=256)
def uncertain_lobe(card: LobeCard, told: tuple[CardLift, ...] = ()) -> UncertainLobe:
    """Return the uncertain lobe of a card, one object for each card."""
    return UncertainLobe(card, told)
