"""How a valve nears its piston, and what moving the cam, other rockers or lash make of the closest point.

The closest point is the minimum of k P(t) - L(t) over the crank; another phase, ratio or lash is another curve with
another minimum, never the difference at full lift. The lobe is the one the readings found, with all that a card leaves
open of it; what is not known of it moves the figure before and after alike, so that the u of a change is no sum of two.
Source: definitions of docs/how-it-computes.md, "Moving the cam"; envelope theorem for the slopes of a minimum.
"""

import math
from collections.abc import Hashable, Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.changes.change import Change, advanced_since, ratio_at
from mockup.engine.block import Engine
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.readings.cam import SideCam
from mockup.readings.closest_point import Fitted
from mockup.readings.valve_model import DEGREED_U_DEG, PHASE_U_DEG, WHEEL_U_DEG, Sweep

if TYPE_CHECKING:
    from mockup.readings.sweep import SweepFigure

Curve = NDArray[np.float64]

NEAR_OVERLAP_DEG = np.linspace(-60.0, 60.0, 481)


@dataclass(frozen=True, eq=False)
class Setting:
    """How a train stands, against how it should have stood when read: cam advanced [deg], ratio more [1], lash [mm].

    Each a number, or of many settings at once an array, shape (n,).
    """

    advanced_deg: float = 0.0
    more_ratio: float = 0.0
    lash_mm: float = 0.0

    @property
    def columns(self) -> tuple[Curve, Curve, Curve]:
        """The three as arrays of one shape (n,) [deg], [1], [mm]."""
        advanced, ratio, lash = np.broadcast_arrays(*np.atleast_1d(self.advanced_deg, self.more_ratio, self.lash_mm))
        return advanced, ratio, lash

    @property
    def is_many(self) -> bool:
        """Whether it is many settings at once."""
        return any(isinstance(one, np.ndarray) for one in self._own)

    @property
    def _own(self) -> tuple[float, float, float]:
        return self.advanced_deg, self.more_ratio, self.lash_mm

    @cached_property
    def _key(self) -> tuple[Hashable, ...]:
        return tuple(one.tobytes() if isinstance(one, np.ndarray) else one for one in self._own)

    def __eq__(self, other: object) -> bool:
        """Equal where all three are, of many one by one."""
        return isinstance(other, Setting) and self._key == other._key

    def __hash__(self) -> int:
        """By what it is made of."""
        return hash(self._key)


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
    read: Setting = Setting()
    noise: Curve = field(default_factory=lambda: np.zeros((3, 3)))
    freedom: float = math.inf

    @property
    def wheel_deg(self) -> float:
        """How far the readings moved the wheel [deg]."""
        return float(self.theta[1])

    def curve_mm(self, at_deg: ArrayLike, setting: Setting = Setting()) -> Curve:
        """Clearance less its constant, k P - L: shape (n,) crank angles about overlap TDC [deg] in, (n,) [mm] out."""
        t = np.asarray(at_deg, dtype=float) - self.wheel_deg
        moved = replace(self.train, ratio=self.train.ratio + setting.more_ratio, lash_mm=setting.lash_mm)
        lift = moved.open_lift_mm(t - float(self.theta[2]) + setting.advanced_deg, self.theta[3:])
        return np.asarray(self.k * self.crank.travel_mm(t) - lift)

    def least(self, setting: Setting) -> tuple[Curve, Curve]:
        """The minimum of the curve in each setting [mm], shape (n,), and where it lies [deg], shape (n,)."""
        advanced_deg, more_ratio, lash_mm = setting.columns
        t = NEAR_OVERLAP_DEG - self.wheel_deg
        advanced, where = np.unique(advanced_deg, return_inverse=True)
        at = (t[None, :] - self.theta[2] + advanced[:, None]).ravel()
        lobes = replace(self.train, ratio=1.0).open_lift_mm(at, self.theta[3:]).reshape(len(advanced), len(t))
        travel = self.k * self.crank.travel_mm(t)
        every = np.column_stack([where.ravel(), self.train.ratio + more_ratio, lash_mm])
        kinds, back = np.unique(every, axis=0, return_inverse=True)
        lift = np.clip(kinds[:, 1][:, None] * lobes[kinds[:, 0].astype(int)] - kinds[:, 2][:, None], 0.0, None)
        low, place = lowest(travel[None, :] - lift)
        return low[back.ravel()], place[back.ravel()]

    def slopes(self, setting: Setting, at_deg: Curve) -> Curve:
        """How the minimum moves with each parameter [mm] a unit of its own, shape (n, 3 + modes); at angles [deg]."""
        advanced_deg, more_ratio, lash_mm = setting.columns
        t = at_deg - self.wheel_deg
        lobe = replace(self.train, ratio=1.0)
        shifted = t - self.theta[2] + advanced_deg
        ratios = self.train.ratio + more_ratio
        is_open = ratios * lobe.open_lift_mm(shifted, self.theta[3:]) > lash_mm
        step = 0.02
        rise = lobe.open_lift_mm(shifted + step, self.theta[3:]) - lobe.open_lift_mm(shifted - step, self.theta[3:])
        phase = np.where(is_open, ratios * rise / (2 * step), 0.0)
        modes = -(ratios * is_open)[:, None] * lobe.modes_mm(shifted)
        # At a minimum the curve is level: moving the whole of it sideways changes nothing.
        return np.column_stack([np.ones_like(t), np.zeros_like(t), phase, modes])

    def lobe_mm(self, setting: Setting, at_deg: Curve) -> Curve:
        """Lift of the lobe itself in each setting at an angle each, shape (n,) [deg]; [mm]."""
        at = at_deg - self.wheel_deg - self.theta[2] + setting.columns[0]
        return replace(self.train, ratio=1.0).open_lift_mm(at, self.theta[3:])

    def closest_deg(self, setting: Setting = Setting()) -> float:
        """The crank angle of the minimum about overlap TDC [deg]."""
        return float(self.least(setting)[1][0])

    def lift_at_closest_mm(self, setting: Setting = Setting()) -> float:
        """Lift of the train without lash where valve and piston come nearest [mm]."""
        at = np.array([self.closest_deg(setting) - self.wheel_deg - float(self.theta[2]) + setting.advanced_deg])
        moved = replace(self.train, ratio=self.train.ratio + setting.more_ratio)
        return float(moved.open_lift_mm(at, self.theta[3:])[0])


def lowest(curves: Curve) -> tuple[Curve, Curve]:
    """Minimum of each row, shape (n, m) over NEAR_OVERLAP_DEG in, (n,) out [mm], and its angle, shape (n,) [deg].

    By the parabola through its lowest three points.
    """
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


def train_when(cam: SideCam, engine: Engine, changes: Iterable[Change], after: int) -> ValveTrain:
    """A side's train without lash as it stood by the book when a reading was taken, from what it is now."""
    done = list(changes)
    # Rounded as the ratio is: put back where it stood, it stands exactly there, and its fit is known.
    centreline = round(cam.train.centreline_deg + advanced_since(done, after, cam.side), 9)
    return replace(cam.train, centreline_deg=centreline, ratio=ratio_at(engine, done, after), lash_mm=0.0)


def setting_in(mockup: MockUp, ratio: float, side: Side) -> Setting:
    """How the train stood in a mock-up, against the book: another cam position, other rockers, lash left in."""
    own = mockup.rocker_ratio if mockup.rocker_ratio is not None else ratio
    return Setting(mockup.cam_advance_deg, round(own - ratio, 6), mockup.lash_at_valve_mm(own, side))


def train_in(train: ValveTrain, setting: Setting) -> ValveTrain:
    """A train in a setting other than by the book."""
    moved = train.advanced(setting.advanced_deg)
    return replace(moved, ratio=train.ratio + setting.more_ratio, lash_mm=setting.lash_mm)


def approach_of(
    engine: Engine,
    crank: SliderCrank,
    cam: SideCam,
    changes: Iterable[Change],
    after: int,
    swept: "SweepFigure | None" = None,
    read: Setting = Setting(),
) -> Approach:
    """How one valve of ``cam``'s side stood when it was read: by its sweep where there is one, else as the cam says.

    ``engine`` as designed; ``changes``: those that ``cam`` has in it.
    """
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
    crank: SliderCrank, k: float, train: ValveTrain, read: Setting, same: _Same | None, degreed: bool
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
