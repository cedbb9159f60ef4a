"""How a valve nears its piston, and what moving the cam or other rockers make of the closest point.

The closest point is the minimum of k P(t) - L(t) over the crank; another phase or ratio is another curve with another
minimum, never the difference at full lift. The lobe is moved to where the readings say it stands before it is shifted.
Source: definitions of docs/how-it-computes.md, "Moving the cam"; what a card's lobe is worth there is from simulated
lobes (benchmarks/accuracy_moves.py).
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.checks.cam import CARD_LIFT_U_MM, SideCam
from mockup.engine.block import Engine
from mockup.engine.changes import Change, ChangeKind, advanced_since, ratio_at
from mockup.engine.valves import Side
from mockup.motion.lobes import TableLobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.ladder import Rung
from mockup.quantity.value import Value
from mockup.readings.closest import Closest, Sweep, closest_approach
from mockup.readings.sweep import SweepFigure

Curve = NDArray[np.float64]

NEAR_OVERLAP_DEG = np.linspace(-60.0, 60.0, 481)
CARD_U_MM_PER_DEG = 0.006
"""How far a card's bare lobe misses what one degree of cam is worth: simulated lobes, standard uncertainty."""
FITTED_U_MM_PER_DEG = 0.002
"""The same once the card's lobe was fitted to a sweep."""
MOVED_U_DEG = 0.25
"""How truly a cam comes to stand where it was moved to: common practice, no source."""


@dataclass(frozen=True, slots=True)
class Approach:
    """One valve's train as it stood when it was read, the crank, and the axial factor [1].

    ``wheel_deg`` and ``phase``: how the readings moved wheel and cam [deg]; ``fitted`` whether there were any to.
    """

    crank: SliderCrank
    k: float
    train: ValveTrain
    wheel_deg: float = 0.0
    phase: Value = field(default_factory=lambda: Value(0.0))
    fitted: bool = False

    def curve_mm(self, at_deg: ArrayLike, advanced_deg: float = 0.0, more_ratio: float = 0.0) -> Curve:
        """Clearance less its constant, k P - L: shape (n,) crank angles about overlap TDC [deg] in, (n,) [mm] out."""
        t = np.asarray(at_deg, dtype=float) - self.wheel_deg
        moved = replace(self.train, ratio=self.train.ratio + more_ratio)
        return np.asarray(self.k * self.crank.travel_mm(t) - moved.lift_mm(t - self.phase.value + advanced_deg))

    def least_mm(self, advanced_deg: ArrayLike, more_ratio: ArrayLike) -> Curve:
        """The minimum of the curve, shape (n,) advances [deg] and (n,) ratios more [1] in, (n,) [mm] out."""
        t = NEAR_OVERLAP_DEG - self.wheel_deg
        advanced, where = np.unique(np.atleast_1d(np.asarray(advanced_deg, dtype=float)), return_inverse=True)
        lobes = self.train.lobe.lift_mm(t[None, :] - self.phase.value + advanced[:, None] - self.train.centreline_deg)
        ratios = self.train.ratio + np.atleast_1d(np.asarray(more_ratio, dtype=float))
        travel = self.k * self.crank.travel_mm(t)
        both = np.column_stack([where.ravel(), ratios])
        pairs, back = np.unique(both, axis=0, return_inverse=True)
        curves = travel[None, :] - pairs[:, 1][:, None] * lobes[pairs[:, 0].astype(int)]
        return _lowest(curves)[back.ravel()]

    def closest_deg(self, advanced_deg: float = 0.0, more_ratio: float = 0.0) -> float:
        """The crank angle of the minimum about overlap TDC [deg]."""
        return float(NEAR_OVERLAP_DEG[int(np.argmin(self.curve_mm(NEAR_OVERLAP_DEG, advanced_deg, more_ratio)))])

    def lift_at_closest_mm(self) -> float:
        """Lift of the train without lash where valve and piston come nearest [mm]."""
        at = self.closest_deg() - self.wheel_deg - self.phase.value
        return float(replace(self.train, lash_mm=0.0).lift_mm(at))


def _lowest(curves: Curve) -> Curve:
    """Minimum of each row, shape (n, m) in, (n,) out, by the parabola through its lowest three points."""
    at = np.clip(np.argmin(curves, axis=1), 1, curves.shape[1] - 2)
    rows = np.arange(len(curves))
    left, middle, right = curves[rows, at - 1], curves[rows, at], curves[rows, at + 1]
    bend = left - 2 * middle + right
    gain = np.where(bend > 1e-12, (left - right) ** 2 / (8 * np.where(bend > 1e-12, bend, 1.0)), 0.0)
    return np.asarray(np.minimum(np.minimum(left, right), middle - np.minimum(gain, 0.05)))


def shifts_mm(of: Approach, before: tuple[Curve, Curve], after: tuple[Curve, Curve]) -> tuple[Curve, Curve]:
    """What the closest point gains between states of the cam [mm] and its variance, each shape (n,).

    A state is (advanced [deg], ratio more [1]), each shape (n,). Variance: of the centreline as it is known, of where a
    moved cam comes to stand, and of what the lobe itself is worth between the two.
    """
    was, would = of.least_mm(*before), of.least_mm(*after)
    advanced, more = after[0] - before[0], after[1] - before[1]
    per_deg, per_ratio = lobe_u_mm(of, 1.0, 0.0), lobe_u_mm(of, 0.0, 1.0)
    variance = (per_deg * advanced) ** 2 + (per_ratio * more) ** 2
    if of.phase.u:
        late = of.least_mm(after[0] + of.phase.u, after[1]) - of.least_mm(before[0] + of.phase.u, before[1])
        variance = variance + (late - (would - was)) ** 2
    astray = of.least_mm(after[0] + MOVED_U_DEG, after[1]) - would
    return would - was, variance + np.where(advanced != 0, astray, 0.0) ** 2


@lru_cache(maxsize=4096)
def lift_shift(of: Approach, before: tuple[float, float], after: tuple[float, float]) -> Value:
    """What the closest point gains between two states of the cam, each (advanced [deg], ratio more [1]) [mm]."""
    states = [(np.array([one[0]]), np.array([one[1]])) for one in (before, after)]
    value, variance = shifts_mm(of, states[0], states[1])
    return Value(float(value[0]), math.sqrt(float(variance[0])))


def lobe_u_mm(of: Approach, advanced_deg: float, more_ratio: float) -> float:
    """What not knowing the lobe better adds to a shift [mm]: a measured table its own u, a card its model's."""
    lobe = of.train.lobe
    if isinstance(lobe, TableLobe):
        return abs(more_ratio) * lobe.u_mm
    per_deg = FITTED_U_MM_PER_DEG if of.fitted else CARD_U_MM_PER_DEG
    return math.hypot(more_ratio * CARD_LIFT_U_MM / of.train.ratio, advanced_deg * per_deg)


def train_when(cam: SideCam, engine: Engine, changes: Iterable[Change], after: int) -> ValveTrain:
    """A side's train without lash as it stood when a reading was taken, from what it is now."""
    done = list(changes)
    centreline = cam.train.centreline_deg + advanced_since(done, after, cam.side)
    return replace(cam.train, centreline_deg=centreline, ratio=ratio_at(engine, done, after), lash_mm=0.0)


def approach_of(
    engine: Engine,
    crank: SliderCrank,
    cam: SideCam,
    changes: Iterable[Change],
    after: int,
    swept: SweepFigure | None = None,
) -> Approach:
    """How one valve of ``cam``'s side stood when it was read: by its sweep where there is one, else as the cam says."""
    train = train_when(cam, engine, changes, after)
    k = engine.row(cam.side).axial_factor
    fit = _fit(swept, crank, train) if swept else None
    if fit is None:
        return Approach(crank, k, train, 0.0, Value(0.0, cam.centreline.u))
    return Approach(crank, k, train, fit.wheel_deg, fit.phase_deg, fitted=True)


def _fit(swept: SweepFigure, crank: SliderCrank, train: ValveTrain) -> Closest | None:
    if swept.closest is not None and swept.closest.lift_known:
        return swept.closest
    return _card_fit(_Same(swept.sweep), crank, train)


class _Same:
    """A sweep that is equal to another with the same readings, so that a card is fitted to them once."""

    def __init__(self, sweep: Sweep) -> None:
        self.sweep = sweep
        arrays = tuple(one.tobytes() for one in (sweep.t_deg, sweep.c_mm, sweep.u_mm))
        self.key = (*arrays, sweep.k, sweep.wheel_u_deg, sweep.systematic_u_mm, sweep.drop)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and self.key == other.key

    def __hash__(self) -> int:
        return hash(self.key)


@lru_cache(maxsize=512)
def _card_fit(same: _Same, crank: SliderCrank, train: ValveTrain) -> Closest | None:
    return closest_approach(same.sweep, crank, train)


def lift_rungs(of: Approach, changes: Iterable[Change], side: Side) -> list[Rung]:
    """What each cam or rocker change does to the closest point of a valve, one rung each, in their order [mm]."""
    found, state = [], (0.0, 0.0)
    for change in changes:
        if change.kind is ChangeKind.CAM and change.is_of(side):
            new = (state[0] + change.amount, state[1])
            words = f"cam {'advanced' if change.amount > 0 else 'retarded'} {abs(change.amount):g}° since it was read"
        elif change.kind is ChangeKind.ROCKERS:
            new = (state[0], state[1] + change.amount)
            words = f"rockers {of.train.ratio + new[1]:.3g} for {of.train.ratio + state[1]:.3g} since it was read"
        else:
            continue
        found.append(Rung(words, lift_shift(of, state, new)))
        state = new
    return found
