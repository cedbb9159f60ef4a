"""The models fitted to one valve's readings: piston and lobe, or piston and smooth curve.

Lobe known or estimated: C(t) = C0 + k P(t - w) - L(t - w - phase; a), with the drop C0, wheel error w (0 +- u), phase
(0 +- 1 degree, 0.5 where degreed) and what a card leaves open of its lobe, a (0 +- 1 each). Lash left in is part of L.
No lobe: C - k P is a quartic in (t - t_smallest)/10 with its cubic term held at 0 +- 0.03 mm and its quartic at 0 +-
0.015 mm by two more rows. Source: derivation in docs/how-it-computes.md, "From readings to the closest point".
"""

import math
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from mockup.engine.valves import Side
from mockup.fit.least_squares import Solution, damped_fit
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.corrections import UncertaintySource
from mockup.quantity.value import Value

Curve = NDArray[np.float64]

CUBIC_U_MM, QUARTIC_U_MM = 0.03, 0.015
WHEEL_U_DEG = 0.5
PHASE_U_DEG = 1.0
DEGREED_U_DEG = 0.5
SLOPE_DEG = 0.02


SHUT_SPAN_DEG = 4.0
"""Readings closer together than this cannot tell a shut valve from an open one: our own bound."""
FOLLOWS_MM = (0.05, 0.10)
FOLLOWS_A_DEG_MM = 0.01
"""A valve about overlap moves by more than this per degree [mm]: our own bound, by the virtual engines.

Readings follow the piston where they differ from its travel by less than that over their span, or by less than
FOLLOWS_MM, about the noise of a hand.
"""


def _surely(t_deg: Curve) -> Curve:
    return np.zeros((1, len(t_deg)))


@dataclass(frozen=True, slots=True)
class Sweep:
    """Readings of one valve: angles about overlap TDC [deg], clearances and noise [mm].

    Each shape (n,). ``k``: axial factor [1]. ``wheel_u_deg``, ``phase_u_deg``: standard uncertainty of wheel and cam
    [deg]. ``systematic_u_mm``: the instrument's own, common to all readings [mm]; ``tilt_u_mm``: of the dial's tilt.
    ``drop``: C0 read with the valve shut at TDC, or None [mm]. ``side``: of the valve. ``crank_u_mm``: returns the
    uncertainty of the piston's travel due to stroke, rod and lean at angles (n,) [deg], shape (3, n) [mm].
    """

    t_deg: Curve
    c_mm: Curve
    u_mm: Curve
    k: float
    wheel_u_deg: float = WHEEL_U_DEG
    systematic_u_mm: float = 0.0
    drop: Value | None = None
    phase_u_deg: float = PHASE_U_DEG
    side: Side = Side.INTAKE
    crank_u_mm: Callable[[Curve], Curve] = _surely
    tilt_u_mm: float = 0.0

    @property
    def shared_u_mm(self) -> float:
        """The error common to all readings, a standard uncertainty [mm]."""
        return math.hypot(self.systematic_u_mm, self.tilt_u_mm)


@dataclass(frozen=True, slots=True)
class ValveModel:
    """A model to fit: rows at a given noise, values and slopes at angles, sources of priors.

    ``solve(sigma, start)``; ``value(t, theta)`` (n,); ``design(t, theta)`` (n, p); ``priors``: of the rows after the
    readings, in order. ``table_u_mm``: a measured lobe's own u at the valve [mm].
    """

    solve: Callable[[Curve, Curve | None], Solution]
    value: Callable[[Curve, Curve], Curve]
    design: Callable[[Curve, Curve], Curve]
    priors: tuple[UncertaintySource, ...]
    table_u_mm: float = 0.0


def without_lobe(sweep: Sweep, crank: SliderCrank) -> ValveModel:
    """Return the model of the piston and a smooth curve about the smallest reading."""
    centre = float(sweep.t_deg[int(np.argmin(sweep.c_mm))])
    held = np.zeros((2, 5))
    held[0, 3], held[1, 4] = 1 / CUBIC_U_MM, 1 / QUARTIC_U_MM
    free = sweep.c_mm - sweep.k * crank.travel_mm(sweep.t_deg)

    def design(t: Curve, _theta: Curve) -> Curve:
        return np.vander((t - centre) / 10.0, 5, increasing=True)

    def solve(sigma: Curve, _start: Curve | None) -> Solution:
        rows = np.vstack([design(sweep.t_deg, sigma) / sigma[:, None], held])
        wanted = np.concatenate([free / sigma, [0.0, 0.0]])
        moves = np.linalg.pinv(rows)
        theta = moves @ wanted
        return Solution(theta, moves, rows, wanted - rows @ theta, converged=True)

    def value(t: Curve, theta: Curve) -> Curve:
        return np.asarray(sweep.k * crank.travel_mm(t) + design(t, theta) @ theta)

    return ValveModel(solve, value, design, (UncertaintySource.CURVE, UncertaintySource.CURVE))


@dataclass(frozen=True, slots=True)
class _Asked:
    """Compares equal to a fit of the same readings, lobe and noise."""

    key: tuple[Hashable, ...]
    work: Callable[[], Solution] = field(compare=False)


@lru_cache(maxsize=2048)
def _kept(asked: _Asked) -> Solution:
    """Solve, cached: what-ifs repeat the same fits, and a solution never changes."""
    return asked.work()


def with_lobe(sweep: Sweep, crank: SliderCrank, train: ValveTrain) -> ValveModel:
    """Return the model of the piston and the train, for readings, the drop, or both."""
    made = _WithLobe(sweep, crank, train)
    drops = (UncertaintySource.REPEATABILITY,) if sweep.drop else ()
    of = (
        UncertaintySource.WHEEL,
        UncertaintySource.TIMING,
        *(UncertaintySource.LOBE for _ in range(made.modes)),
        *drops,
    )
    return ValveModel(made.solve, made.value, lambda t, theta: made.both(t, theta)[1], of, made.table_u_mm)


class _WithLobe:
    """Parameters: drop [mm], wheel and phase [deg], the lobe's open modes [1]."""

    def __init__(self, sweep: Sweep, crank: SliderCrank, train: ValveTrain) -> None:
        self.sweep, self.crank, self.train = sweep, crank, train
        self.modes = train.modes_mm(np.zeros(1)).shape[1]
        self.beforehand = np.concatenate([[sweep.wheel_u_deg, sweep.phase_u_deg], np.ones(self.modes)])
        self.prior_rows = np.column_stack([np.zeros(self.modes + 2), np.diag(1 / self.beforehand)])
        # A table was measured too: its noise differs from angle to angle, like that of the readings.
        self.table_u_mm = getattr(train.lobe, "u_mm", 0.0) * train.ratio
        self.around = np.array([[0.0], [-SLOPE_DEG], [SLOPE_DEG]])

    def value(self, t: Curve, theta: Curve) -> Curve:
        at = t - theta[1]
        lift = self.train.open_lift_mm(at - theta[2], theta[3:])
        return np.asarray(theta[0] + self.sweep.k * self.crank.travel_mm(at) - lift)

    def both(self, t: Curve, theta: Curve) -> tuple[Curve, Curve]:
        """Return values (n,) and slopes (n, p)."""
        k = self.sweep.k
        at = t - theta[1] + self.around
        travel = self.crank.travel_mm(at)
        lift = self.train.open_lift_mm((at - theta[2]).ravel(), theta[3:]).reshape(at.shape)
        phase = (lift[2] - lift[1]) / (2 * SLOPE_DEG)
        wheel = phase - k * (travel[2] - travel[1]) / (2 * SLOPE_DEG)
        open_modes = -self.train.modes_mm(at[0] - theta[2]) * (lift[0] > 0)[:, None]
        return theta[0] + k * travel[0] - lift[0], np.column_stack([np.ones_like(t), wheel, phase, open_modes])

    def solve(self, sigma: Curve, start: Curve | None) -> Solution:
        s, sigma = self.sweep, np.hypot(sigma, self.table_u_mm)
        readings = (s.t_deg.tobytes(), s.c_mm.tobytes(), s.u_mm.tobytes(), s.drop, s.k, s.wheel_u_deg, s.phase_u_deg)
        key = (*readings, self.crank, self.train, sigma.tobytes(), None if start is None else start.tobytes())
        return _kept(_Asked(key, lambda: self._solve_now(sigma, start)))

    def _solve_now(self, sigma: Curve, start: Curve | None) -> Solution:
        sweep, drop, n = self.sweep, self.sweep.drop, len(self.sweep.t_deg)
        # The same person read the drop, so the noise found applies to it too.
        drop_u = drop.u * (float(np.median(sigma / sweep.u_mm)) if n else 1.0) if drop else 0.0

        def rows(theta: Curve) -> tuple[Curve, Curve]:
            got, slopes = self.both(sweep.t_deg, theta)
            residuals = [(sweep.c_mm - got) / sigma, -theta[1:] / self.beforehand]
            jacobian = [slopes / sigma[:, None], self.prior_rows]
            if drop is not None:
                residuals.append(np.array([(drop.value - theta[0]) / drop_u]))
                jacobian.append(np.eye(1, len(theta)) / drop_u)
            return np.concatenate(residuals), np.vstack(jacobian)

        if start is None:
            start = np.zeros(self.modes + 3)
            apart = sweep.c_mm - self.value(sweep.t_deg, start)
            start[0] = float(np.median(apart)) if n else (drop.value if drop else 0.0)
        return damped_fit(rows, start)


def can_tell_tdc(sweep: Sweep) -> bool:
    """Return whether readings can tell overlap TDC: different angles, or the drop and one."""
    return len(sweep.t_deg) > 0 and (float(np.ptp(sweep.t_deg)) >= SHUT_SPAN_DEG or sweep.drop is not None)


def looks_shut(sweep: Sweep, crank: SliderCrank) -> bool:
    """Return whether readings follow the piston alone: both valves shut, at firing TDC.

    The wheel may be off by as much as its uncertainty allows. The drop is the clearance of a shut valve at TDC.
    """
    if not can_tell_tdc(sweep):
        return False
    out = np.linspace(-2.0, 2.0, 21)[:, None] * sweep.wheel_u_deg
    moved = sweep.c_mm - sweep.k * crank.travel_mm(sweep.t_deg - out)
    span = float(np.ptp(sweep.t_deg))
    if span < SHUT_SPAN_DEG and sweep.drop is not None:
        return float(np.abs(moved - sweep.drop.value).max(axis=1).min()) < FOLLOWS_MM[1]
    follows = min(max(FOLLOWS_A_DEG_MM * span, FOLLOWS_MM[0]), FOLLOWS_MM[1])
    return float(np.ptp(moved, axis=1).min()) < follows
