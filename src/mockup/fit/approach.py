"""How a valve nears its piston, and what cam, rockers or lash do to the closest point.

The closest point is the minimum of k P(t) - L(t) over the crank. Another phase, ratio or lash gives another curve with
another minimum, not the difference at full lift. The lobe is the one found by the readings, with everything its card
leaves open. What is unknown about it moves the figure before and after alike, so the u of a change is not the sum of
two. Source: definitions of docs/how-it-computes.md, "Moving the cam"; envelope theorem for the slopes of a minimum.
"""

import math
from collections.abc import Hashable, Iterable
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.changes.change import Change
from mockup.changes.since import advanced_since, ratio_at
from mockup.engine.block import Engine
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side
from mockup.fit.cam_report import SideCam
from mockup.fit.closest_point import Fitted
from mockup.fit.swept_valve import SweepFigure
from mockup.fit.valve_model import DEGREED_U_DEG, PHASE_U_DEG, WHEEL_U_DEG, Sweep
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain

Curve = NDArray[np.float64]

NEAR_OVERLAP_DEG = np.linspace(-60.0, 60.0, 481)


@dataclass(frozen=True, eq=False)
class Setting:
    """A train's departure from its specification: advance [deg], added ratio [1], lash [mm].

    Each a number, or an array for many settings, shape (n,).
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
    def is_batch(self) -> bool:
        """Whether it holds many settings."""
        return any(isinstance(one, np.ndarray) for one in self._own)

    @property
    def _own(self) -> tuple[float, float, float]:
        return self.advanced_deg, self.more_ratio, self.lash_mm

    @cached_property
    def _key(self) -> tuple[Hashable, ...]:
        return tuple(one.tobytes() if isinstance(one, np.ndarray) else one for one in self._own)

    def __eq__(self, other: object) -> bool:
        """Compare all three, element by element."""
        return isinstance(other, Setting) and self._key == other._key

    def __hash__(self) -> int:
        """Hash by content."""
        return hash(self._key)


@dataclass(frozen=True, eq=False)
class Approach:
    """One valve's train without lash, as specified when read, the crank, the axial factor [1].

    ``theta``: drop, wheel, phase and open modes as fitted, with their ``covariance``; without a sweep the prior
    knowledge. ``fitted``: whether there was a sweep. ``noise``: the part of the covariance due to the readings' noise,
    with ``freedom`` degrees of freedom. ``read``: the setting it was read in. Equal only to itself.
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
        """How far the fit moved the wheel [deg]."""
        return float(self.theta[1])

    def curve_mm(self, at_deg: ArrayLike, setting: Setting = Setting()) -> Curve:
        """Return k P - L, the clearance without its constant: angles (n,) [deg] in, (n,) [mm] out."""
        t = np.asarray(at_deg, dtype=float) - self.wheel_deg
        moved = replace(self.train, ratio=self.train.ratio + setting.more_ratio, lash_mm=setting.lash_mm)
        lift = moved.open_lift_mm(t - float(self.theta[2]) + setting.advanced_deg, self.theta[3:])
        return np.asarray(self.k * self.crank.travel_mm(t) - lift)

    def least(self, setting: Setting) -> tuple[Curve, Curve]:
        """Return the curve's minimum in each setting [mm], shape (n,), and its angle [deg], (n,)."""
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
        """Return the minimum's slope by each parameter [mm], shape (n, 3 + modes), at angles [deg]."""
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
        # At a minimum the curve is level, so moving it sideways changes nothing.
        return np.column_stack([np.ones_like(t), np.zeros_like(t), phase, modes])

    def lobe_mm(self, setting: Setting, at_deg: Curve) -> Curve:
        """Return the lobe's lift in each setting at one angle each, shape (n,) [mm]."""
        at = at_deg - self.wheel_deg - self.theta[2] + setting.columns[0]
        return replace(self.train, ratio=1.0).open_lift_mm(at, self.theta[3:])

    def closest_deg(self, setting: Setting = Setting()) -> float:
        """Return the crank angle of the minimum about overlap TDC [deg]."""
        return float(self.least(setting)[1][0])

    def lift_at_closest_mm(self, setting: Setting = Setting()) -> float:
        """Return the lift of the train without lash at the closest point [mm]."""
        at = np.array([self.closest_deg(setting) - self.wheel_deg - float(self.theta[2]) + setting.advanced_deg])
        moved = replace(self.train, ratio=self.train.ratio + setting.more_ratio)
        return float(moved.open_lift_mm(at, self.theta[3:])[0])


def lowest(curves: Curve) -> tuple[Curve, Curve]:
    """Return each row's minimum, (n, m) over NEAR_OVERLAP_DEG in, (n,) [mm], and its angle.

    Uses the parabola through the lowest three points.
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
    """Return a side's train without lash, as specified when a reading was taken."""
    done = list(changes)
    # Rounded like the ratio: a train put back where it was then equals the earlier one, and its cached fit is found.
    centreline = round(cam.train.centreline_deg + advanced_since(done, after, cam.side), 9)
    return replace(cam.train, centreline_deg=centreline, ratio=ratio_at(engine, done, after), lash_mm=0.0)


def setting_in(mockup: MockUp, ratio: float, side: Side) -> Setting:
    """Return a mock-up's departure from the specified train: cam, rockers, lash left in."""
    own = mockup.rocker_ratio if mockup.rocker_ratio is not None else ratio
    return Setting(mockup.cam_advance_deg, round(own - ratio, 6), mockup.lash_at_valve_mm(own, side))


def train_in(train: ValveTrain, setting: Setting) -> ValveTrain:
    """Return a train in another setting."""
    moved = train.advanced(setting.advanced_deg)
    return replace(moved, ratio=train.ratio + setting.more_ratio, lash_mm=setting.lash_mm)


def approach_of(
    engine: Engine,
    crank: SliderCrank,
    cam: SideCam,
    changes: Iterable[Change],
    after: int,
    swept: SweepFigure | None = None,
    read: Setting = Setting(),
) -> Approach:
    """Return how one valve was when read: by its sweep if there is one, else by the cam.

    ``engine`` as designed; ``changes``: those already included in ``cam``.
    """
    train = train_when(cam, engine, changes, after)
    k = engine.row(cam.side).axial_factor
    found = swept.closest.fitted if swept and swept.closest and swept.modelled else None
    degreed = cam.degreed is not None
    return _approach(crank, k, train, read, _Same(swept.sweep, found) if swept and found else None, degreed)


class _Same:
    """Compares equal to a fit of the same readings, so that results can be cached."""

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
    # The reading determines the drop; wheel, cam and lobe keep their prior uncertainty.
    spread = np.concatenate([[0.0, WHEEL_U_DEG, DEGREED_U_DEG if degreed else PHASE_U_DEG], np.ones(modes)])
    nothing = np.zeros((size, size))
    return Approach(crank, k, train, np.zeros(size), np.diag(spread**2), read=read, noise=nothing)
