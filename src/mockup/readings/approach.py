"""How a valve nears its piston, and what moving the cam, other rockers or lash make of the closest point.

The closest point is the minimum of k P(t) - L(t) over the crank; another phase, ratio or lash is another curve with
another minimum, never the difference at full lift. The lobe is the one the readings found, with all that a card leaves
open of it; what is not known of it moves the figure before and after alike, so that the u of a change is no sum of two.
Source: definitions of docs/how-it-computes.md, "Moving the cam"; envelope theorem for the slopes of a minimum.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.engine.block import Engine
from mockup.engine.changes import Change, ChangeKind, advanced_since, ratio_at
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side
from mockup.motion.lobes import TableLobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.ladder import Doubt, Part, Rung
from mockup.quantity.value import Value, rectangular
from mockup.readings.cam import SideCam
from mockup.readings.closest import Fitted
from mockup.readings.sweep import SweepFigure
from mockup.readings.valve_model import DEGREED_U_DEG, PHASE_U_DEG, WHEEL_U_DEG, Sweep

Curve = NDArray[np.float64]

NEAR_OVERLAP_DEG = np.linspace(-60.0, 60.0, 481)
MOVED_U_DEG = 0.25
"""How truly a cam comes to stand where it was moved to: common practice, no source."""
RATIO_U = rectangular(0.005)
"""How truly other rockers have their ratio, +-0.005: common practice, no source."""


@dataclass(frozen=True, slots=True)
class State:
    """How a train stands, against how it should have stood when read: cam advanced [deg], ratio more [1], lash [mm]."""

    advanced_deg: float = 0.0
    more_ratio: float = 0.0
    lash_mm: float = 0.0


@dataclass(frozen=True, slots=True)
class States:
    """Many states at once, each field shape (n,)."""

    advanced_deg: Curve
    more_ratio: Curve
    lash_mm: Curve

    @classmethod
    def of(cls, *states: State) -> "States":
        """Single states as one."""
        columns = zip(*((one.advanced_deg, one.more_ratio, one.lash_mm) for one in states), strict=True)
        return cls(*(np.array(column, dtype=float) for column in columns))


@dataclass(frozen=True, eq=False)
class Approach:
    """One valve's train without lash as it stood by the book when it was read, the crank, and the axial factor [1].

    ``theta``: drop, wheel, phase and open modes as the readings found them, with their ``covariance``; without a sweep
    what is known beforehand. ``fitted``: whether there was one; ``noise``: the part of the covariance that the
    readings' noise makes, known by ``freedom`` degrees. ``read``: the state it was read in. Equal only to itself.
    """

    crank: SliderCrank
    k: float
    train: ValveTrain
    theta: Curve = field(default_factory=lambda: np.zeros(3))
    covariance: Curve = field(default_factory=lambda: np.zeros((3, 3)))
    fitted: bool = False
    read: State = State()
    noise: Curve = field(default_factory=lambda: np.zeros((3, 3)))
    freedom: float = math.inf

    @property
    def wheel_deg(self) -> float:
        """How far the readings moved the wheel [deg]."""
        return float(self.theta[1])

    def curve_mm(self, at_deg: ArrayLike, state: State = State()) -> Curve:
        """Clearance less its constant, k P - L: shape (n,) crank angles about overlap TDC [deg] in, (n,) [mm] out."""
        t = np.asarray(at_deg, dtype=float) - self.wheel_deg
        moved = replace(self.train, ratio=self.train.ratio + state.more_ratio, lash_mm=state.lash_mm)
        lift = moved.open_lift_mm(t - float(self.theta[2]) + state.advanced_deg, self.theta[3:])
        return np.asarray(self.k * self.crank.travel_mm(t) - lift)

    def least(self, states: States) -> tuple[Curve, Curve]:
        """The minimum of the curve in each state [mm], shape (n,), and where it lies [deg], shape (n,)."""
        t = NEAR_OVERLAP_DEG - self.wheel_deg
        advanced, where = np.unique(states.advanced_deg, return_inverse=True)
        at = (t[None, :] - self.theta[2] + advanced[:, None]).ravel()
        lobes = replace(self.train, ratio=1.0).open_lift_mm(at, self.theta[3:]).reshape(len(advanced), len(t))
        travel = self.k * self.crank.travel_mm(t)
        ratios = self.train.ratio + states.more_ratio
        every = np.column_stack([where.ravel(), ratios, states.lash_mm])
        kinds, back = np.unique(every, axis=0, return_inverse=True)
        lift = np.clip(kinds[:, 1][:, None] * lobes[kinds[:, 0].astype(int)] - kinds[:, 2][:, None], 0.0, None)
        low, place = _lowest(travel[None, :] - lift)
        return low[back.ravel()], place[back.ravel()]

    def slopes(self, states: States, at_deg: Curve) -> Curve:
        """How the minimum in each state moves with the parameters, shape (n, 3 + modes): the curve's at that angle."""
        t = at_deg - self.wheel_deg
        lobe = replace(self.train, ratio=1.0)
        shifted = t - self.theta[2] + states.advanced_deg
        ratios = self.train.ratio + states.more_ratio
        is_open = ratios * lobe.open_lift_mm(shifted, self.theta[3:]) > states.lash_mm
        step = 0.02
        rise = lobe.open_lift_mm(shifted + step, self.theta[3:]) - lobe.open_lift_mm(shifted - step, self.theta[3:])
        phase = np.where(is_open, ratios * rise / (2 * step), 0.0)
        modes = -(ratios * is_open)[:, None] * lobe.modes_mm(shifted)
        # At a minimum the curve is level: moving the whole of it sideways changes nothing.
        return np.column_stack([np.ones_like(t), np.zeros_like(t), phase, modes])

    def lobe_mm(self, states: States, at_deg: Curve) -> Curve:
        """Lift of the lobe itself in each state at an angle each, shape (n,) [deg]; [mm]."""
        at = at_deg - self.wheel_deg - self.theta[2] + states.advanced_deg
        return replace(self.train, ratio=1.0).open_lift_mm(at, self.theta[3:])

    def closest_deg(self, state: State = State()) -> float:
        """The crank angle of the minimum about overlap TDC [deg]."""
        return float(self.least(States.of(state))[1][0])

    def lift_at_closest_mm(self, state: State = State()) -> float:
        """Lift of the train without lash where valve and piston come nearest [mm]."""
        at = np.array([self.closest_deg(state) - self.wheel_deg - float(self.theta[2]) + state.advanced_deg])
        moved = replace(self.train, ratio=self.train.ratio + state.more_ratio)
        return float(moved.open_lift_mm(at, self.theta[3:])[0])


def _lowest(curves: Curve) -> tuple[Curve, Curve]:
    """Minimum of each row, (n, m) in, (n,) out, and its angle, by the parabola through its lowest three points."""
    at = np.clip(np.argmin(curves, axis=1), 1, curves.shape[1] - 2)
    rows = np.arange(len(curves))
    left, middle, right = curves[rows, at - 1], curves[rows, at], curves[rows, at + 1]
    bend = left - 2 * middle + right
    curved = bend > 1e-12
    safe = np.where(curved, bend, 1.0)
    gain = np.where(curved, (left - right) ** 2 / (8 * safe), 0.0)
    aside = np.where(curved, np.clip(0.5 * (left - right) / safe, -1.0, 1.0), 0.0)
    step = NEAR_OVERLAP_DEG[1] - NEAR_OVERLAP_DEG[0]
    low = np.minimum(np.minimum(left, right), middle - np.minimum(gain, 0.05))
    return np.asarray(low), np.asarray(NEAR_OVERLAP_DEG[at] + aside * step)


@dataclass(frozen=True, slots=True)
class Shift:
    """What the closest point gains between states [mm], the variance of that, and its covariance with what was before.

    Each shape (n,). ``moved``: the part of the variance that comes from where a moved cam comes to stand, ``geared``:
    from how truly other rockers have their ratio [mm2].
    ``few``: what the figure's u^4 over its degrees of freedom grows by [mm4].
    """

    gain_mm: Curve
    variance: Curve
    shared: Curve
    moved: Curve
    geared: Curve
    few: Curve

    @property
    def more(self) -> Curve:
        """What the figure's own variance grows by [mm2]; negative where the readings tell more of the new state."""
        return np.asarray(self.variance + 2 * self.shared)


def shifts(of: Approach, before: States, after: States) -> Shift:
    """What the closest point gains between states of the train, shape (n,) each."""
    was, was_at = of.least(before)
    would, would_at = of.least(after)
    old, new = of.slopes(before, was_at), of.slopes(after, would_at)
    if not of.fitted:
        # What was read is the minimum as it was read: of the lobe only what differs from there counts.
        read = States.of(of.read)
        own = of.slopes(read, of.least(read)[1])
        old, new = old - own, new - own
    apart = new - old
    variance = np.einsum("ij,jk,ik->i", apart, of.covariance, apart)
    shared = np.einsum("ij,jk,ik->i", old, of.covariance, apart)
    turned = after.advanced_deg - before.advanced_deg
    astray, _ = of.least(States(after.advanced_deg + MOVED_U_DEG, after.more_ratio, after.lash_mm))
    moved = np.where(turned != 0, astray - would, 0.0) ** 2
    if isinstance(of.train.lobe, TableLobe):
        table = of.train.lobe.u_mm
        elsewhere = np.where(turned != 0, of.train.ratio * table, 0.0)
        variance = variance + elsewhere**2 + ((after.more_ratio - before.more_ratio) * table) ** 2
    rockers = after.more_ratio != before.more_ratio
    geared = np.where(rockers, RATIO_U * of.lobe_mm(after, would_at), 0.0) ** 2
    by_noise = [np.einsum("ij,jk,ik->i", one, of.noise, one) for one in (old, new)]
    return Shift(
        would - was,
        variance + moved + geared,
        shared,
        moved,
        geared,
        (by_noise[1] ** 2 - by_noise[0] ** 2) / of.freedom,
    )


@lru_cache(maxsize=4096)
def shift_rung(of: Approach, before: State, after: State, words: str) -> Rung:
    """What the closest point gains between two states, as a rung [mm]."""
    found = shifts(of, States.of(before), States.of(after))
    variance, moved, geared = float(found.variance[0]), float(found.moved[0]), float(found.geared[0])
    lobe = Doubt.TABLE if of.train.lobe.measured else Doubt.LOBE
    parts = (
        Part(lobe, math.sqrt(max(variance - moved - geared, 0.0))),
        Part(Doubt.TIMING, math.sqrt(moved)),
        Part(Doubt.ROCKERS, math.sqrt(geared)),
    )
    return Rung(
        words,
        Value(float(found.gain_mm[0]), math.sqrt(max(variance, 0.0))),
        lobe,
        parts,
        float(found.shared[0]),
        float(found.few[0]),
    )


def train_when(cam: SideCam, engine: Engine, changes: Iterable[Change], after: int) -> ValveTrain:
    """A side's train without lash as it stood by the book when a reading was taken, from what it is now."""
    done = list(changes)
    # Rounded as the ratio is: put back where it stood, it stands exactly there, and its fit is known.
    centreline = round(cam.train.centreline_deg + advanced_since(done, after, cam.side), 9)
    return replace(cam.train, centreline_deg=centreline, ratio=ratio_at(engine, done, after), lash_mm=0.0)


def state_in(mockup: MockUp, ratio: float, side: Side) -> State:
    """How the train stood in a mock-up, against the book: another cam position, other rockers, lash left in."""
    own = mockup.rocker_ratio if mockup.rocker_ratio is not None else ratio
    return State(mockup.cam_advance_deg, round(own - ratio, 6), mockup.lash_at_valve_mm(own, side))


def train_in(train: ValveTrain, state: State) -> ValveTrain:
    """A train in a state other than by the book."""
    return replace(train.advanced(state.advanced_deg), ratio=train.ratio + state.more_ratio, lash_mm=state.lash_mm)


def approach_of(
    engine: Engine,
    crank: SliderCrank,
    cam: SideCam,
    changes: Iterable[Change],
    after: int,
    swept: SweepFigure | None = None,
    read: State = State(),
) -> Approach:
    """How one valve of ``cam``'s side stood when it was read: by its sweep where there is one, else as the cam says."""
    train = train_when(cam, engine, changes, after)
    k = engine.row(cam.side).axial_factor
    found = swept.closest.fitted if swept and swept.closest and swept.modelled else None
    degreed = cam.degreed is not None
    return _approach(crank, k, train, read, _Same(swept.sweep, found) if swept and found else None, degreed)


class _Same:
    """A fit that is equal to another of the same readings, so that what is worked out of it is kept."""

    def __init__(self, sweep: Sweep, found: Fitted) -> None:
        self.found = found
        self.key = (*(one.tobytes() for one in (sweep.t_deg, sweep.c_mm, sweep.u_mm, found.theta, found.covariance)),)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and self.key == other.key

    def __hash__(self) -> int:
        return hash(self.key)


@lru_cache(maxsize=1024)
def _approach(
    crank: SliderCrank, k: float, train: ValveTrain, read: State, same: _Same | None, degreed: bool
) -> Approach:
    if same is not None:
        found = same.found
        return Approach(
            crank,
            k,
            train,
            found.theta,
            found.covariance,
            fitted=True,
            read=read,
            noise=found.noise,
            freedom=found.freedom,
        )
    modes = train.modes_mm(np.zeros(1)).shape[1]
    size = 3 + modes
    # The drop is whatever the reading makes it; of wheel, cam and lobe what is known beforehand.
    spread = np.concatenate([[0.0, WHEEL_U_DEG, DEGREED_U_DEG if degreed else PHASE_U_DEG], np.ones(modes)])
    nothing = np.zeros((size, size))
    return Approach(crank, k, train, np.zeros(size), np.diag(spread**2), read=read, noise=nothing)


def mockup_rungs(of: Approach) -> list[Rung]:
    """From the train as it stood in the mock-up to the train by the book, one rung each [mm]: lash, rockers, cam."""
    found, state = [], of.read
    if state.lash_mm:
        new = replace(state, lash_mm=0.0)
        found.append(shift_rung(of, state, new, "lash left in, never counted on"))
        state = new
    if state.more_ratio:
        new = replace(state, more_ratio=0.0)
        stood = of.train.ratio + state.more_ratio
        found.append(shift_rung(of, state, new, f"rockers {of.train.ratio:.3g}, where {stood:.3g} stood in"))
        state = new
    if state.advanced_deg:
        way = "in advance" if state.advanced_deg > 0 else "behind"
        words = f"cam where it will run, not {abs(state.advanced_deg):g}° {way}"
        found.append(shift_rung(of, state, State(), words))
    return found


def lift_rungs(of: Approach, changes: Iterable[Change], side: Side) -> list[Rung]:
    """What each cam or rocker change does to the closest point of a valve, one rung each, in their order [mm]."""
    found, state = [], State()
    for change in changes:
        if change.kind is ChangeKind.CAM and change.is_of(side):
            new = replace(state, advanced_deg=state.advanced_deg + change.amount)
            words = f"cam {'advanced' if change.amount > 0 else 'retarded'} {abs(change.amount):g}° since it was read"
        elif change.kind is ChangeKind.ROCKERS:
            new = replace(state, more_ratio=state.more_ratio + change.amount)
            was, now = of.train.ratio + state.more_ratio, of.train.ratio + new.more_ratio
            words = f"rockers {now:.3g} for {was:.3g} since it was read"
        else:
            continue
        found.append(shift_rung(of, state, new, words))
        state = new
    return found
