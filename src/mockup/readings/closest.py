"""The closest approach of one valve from a few indicator readings: the fit, its minimum, and the next reading to take.

Lift known (measured lobes only): C(t) = C0 + k P(t - w) - L(t - w - phase), fitted for C0, wheel error w (0 +- u) and
phase (0 +- 1 degree) by Gauss-Newton. Lift unknown: C - k P is a quartic in (t - t_smallest)/10 with its cubic held at
0 +- 0.03 mm and its quartic at 0 +- 0.015 mm by two extra least-squares rows. Minimum with U by the delta method;
leverage and outliers from the weighted hat matrix with the known u. Sources: weighted least squares and its covariance,
any text (e.g. Draper and Smith, Applied Regression Analysis); derivation in docs/how-it-computes.md.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray

from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.value import Value

Curve = NDArray[np.float64]

CUBIC_U_MM, QUARTIC_U_MM = 0.03, 0.015
PHASE_U_DEG = 1.0
IMPROBABLE = 0.05
OUTLIER = 3.0
TOO_MUCH_LEVERAGE = 0.95
STEP_PAST_DEG = 5.0
ENOUGH_MM = 0.005
"""Another reading that would shrink U by less than this (0.2 thou) changes nothing that matters."""
GRID_DEG = 0.25
SLOPE_DEG = 0.02
SETTLED = 1e-5
"""A step of the fit smaller than this [mm and degrees] ends it."""


@dataclass(frozen=True, slots=True)
class Sweep:
    """Readings of one valve: angles about overlap TDC [deg], clearances along its axis [mm], u of each [mm].

    Each shape (n,). ``k``: axial factor [1]. ``wheel_u_deg``: how truly the wheel stands [deg]. ``systematic_u_mm``:
    the instrument's own, common to all readings [mm]. ``drop``: C0 read with the valve shut at TDC, or None [mm].
    """

    t_deg: Curve
    c_mm: Curve
    u_mm: Curve
    k: float
    wheel_u_deg: float = 0.5
    systematic_u_mm: float = 0.0
    drop: Value | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Closest:
    """What the fit says.

    ``minimum`` [mm] and ``angle`` [deg] with their u; ``bracketed``: it lies between the readings. ``residuals_mm``,
    ``leverage`` and ``outlier`` have one entry a reading. ``scatter``: by how much the readings scatter more than
    their u (1 where they do not). ``next_deg``: where to read next [deg], None once ``enough``. ``grid_deg``,
    ``curve_mm``, ``band_mm``: the fitted curve with its standard uncertainty, each shape (m,). ``wheel_deg`` and
    ``phase_deg``: where wheel and cam were found to stand, as the lift tells [deg]; 0 where it is not known.
    """

    minimum: Value
    angle: Value
    bracketed: bool
    residuals_mm: tuple[float, ...]
    leverage: tuple[float, ...]
    outlier: tuple[bool, ...]
    scatter: float
    next_deg: float | None
    lift_known: bool
    grid_deg: Curve
    curve_mm: Curve
    band_mm: Curve
    wheel_deg: float = 0.0
    phase_deg: Value = field(default_factory=lambda: Value(0.0))

    @property
    def enough(self) -> bool:
        """Whether another reading would change nothing that matters."""
        return self.next_deg is None


@dataclass(frozen=True, slots=True)
class _Model:
    """A linear(ised) model: its design at any angles, its values, prior rows, and the solution's covariance."""

    design: Callable[[Curve], Curve]
    value: Callable[[Curve], Curve]
    covariance: Curve
    theta: Curve | None = None


def closest_approach(sweep: Sweep, crank: SliderCrank, train: ValveTrain | None) -> Closest | None:
    """The closest approach of a sweep; ``train`` only where its lobe was measured. None with too few readings.

    Three different angles are needed where the lift is not known, one where it is.
    """
    if len(sweep.t_deg) == 0 or (train is None and len(np.unique(sweep.t_deg)) < 3):
        return None
    model = _unknown(sweep, crank) if train is None else _known(sweep, crank, train)
    residuals = sweep.c_mm - model.value(sweep.t_deg)
    leverage = _leverage(sweep, model)
    scatter = _scatter(residuals, sweep, leverage)
    covariance = model.covariance * scatter**2
    grid = _grid(sweep, known=train is not None)
    curve = model.value(grid)
    at = int(np.argmin(curve))
    low, high = float(sweep.t_deg.min()), float(sweep.t_deg.max())
    t_min = _refined(grid, curve, at)
    bracketed = low + 1e-9 < t_min < high - 1e-9
    gradient = model.design(np.array([t_min]))[0]
    own_u = math.sqrt(max(float(gradient @ covariance @ gradient), 0.0))
    minimum = Value(float(model.value(np.array([t_min]))[0]), math.hypot(own_u, sweep.systematic_u_mm))
    design = model.design(grid)
    return Closest(
        minimum=minimum,
        angle=Value(t_min, _angle_u(t_min, model, covariance, sweep)),
        bracketed=bracketed,
        residuals_mm=tuple(residuals.tolist()),
        leverage=tuple(leverage.tolist()),
        outlier=tuple(_outliers(residuals, sweep, leverage)),
        scatter=scatter,
        next_deg=_next(sweep, model, covariance, t_min, own_u, bracketed=bracketed),
        lift_known=train is not None,
        grid_deg=grid,
        curve_mm=curve,
        band_mm=np.sqrt(np.clip(np.einsum("ij,jk,ik->i", design, covariance, design), 0.0, None)),
        wheel_deg=0.0 if model.theta is None else float(model.theta[1]),
        phase_deg=Value(0.0) if model.theta is None else Value(float(model.theta[2]), math.sqrt(covariance[2, 2])),
    )


def _grid(sweep: Sweep, *, known: bool) -> Curve:
    reach = 20.0 if known else 0.0
    low, high = float(sweep.t_deg.min()) - reach, float(sweep.t_deg.max()) + reach
    return np.linspace(low, high, max(int((high - low) / GRID_DEG) + 1, 3))


def _refined(grid: Curve, curve: Curve, at: int) -> float:
    """The minimum between grid points, by the parabola through three of them."""
    if at in (0, len(grid) - 1):
        return float(grid[at])
    left, middle, right = curve[at - 1 : at + 2]
    bend = left - 2 * middle + right
    return float(grid[at] + (0.5 * (left - right) / bend if bend > 0 else 0.0) * (grid[1] - grid[0]))


def _unknown(sweep: Sweep, crank: SliderCrank) -> _Model:
    centre = float(sweep.t_deg[int(np.argmin(sweep.c_mm))])

    def design(t: Curve) -> Curve:
        return np.vander((t - centre) / 10.0, 5, increasing=True)

    weights = 1 / sweep.u_mm
    held = np.zeros((2, 5))
    held[0, 3], held[1, 4] = 1 / CUBIC_U_MM, 1 / QUARTIC_U_MM
    rows = np.vstack([design(sweep.t_deg) * weights[:, None], held])
    wanted = np.concatenate([(sweep.c_mm - sweep.k * crank.travel_mm(sweep.t_deg)) * weights, [0.0, 0.0]])
    found, *_ = np.linalg.lstsq(rows, wanted, rcond=None)

    def value(t: Curve) -> Curve:
        return np.asarray(sweep.k * crank.travel_mm(t) + design(t) @ found)

    return _Model(design, value, np.linalg.pinv(rows.T @ rows))


def _known(sweep: Sweep, crank: SliderCrank, train: ValveTrain) -> _Model:
    u_priors = np.array([sweep.wheel_u_deg, PHASE_U_DEG])

    def shape(t: Curve, wheel: float, phase: float) -> Curve:
        return np.asarray(sweep.k * crank.travel_mm(t - wheel) - train.lift_mm(t - wheel - phase))

    def slopes(t: Curve, theta: Curve) -> Curve:
        around = np.array([[-SLOPE_DEG], [SLOPE_DEG]])
        fall, rise = crank.travel_mm(t - theta[1] + around)
        before, after = train.lift_mm(t - theta[1] - theta[2] + around)
        phase = (after - before) / (2 * SLOPE_DEG)
        return np.column_stack([np.ones_like(t), phase - sweep.k * (rise - fall) / (2 * SLOPE_DEG), phase])

    weights = 1 / sweep.u_mm
    theta = np.array([float(np.mean(sweep.c_mm - shape(sweep.t_deg, 0.0, 0.0))), 0.0, 0.0])
    priors = np.column_stack([np.zeros(2), np.diag(1 / u_priors)])
    rows = priors
    for _ in range(6):
        residual = sweep.c_mm - theta[0] - shape(sweep.t_deg, theta[1], theta[2])
        rows = np.vstack([slopes(sweep.t_deg, theta) * weights[:, None], priors])
        wanted = np.concatenate([residual * weights, -theta[1:] / u_priors])
        if sweep.drop is not None:
            rows = np.vstack([rows, [1 / sweep.drop.u, 0.0, 0.0]])
            wanted = np.append(wanted, (sweep.drop.value - theta[0]) / sweep.drop.u)
        change, *_ = np.linalg.lstsq(rows, wanted, rcond=None)
        theta = theta + change
        if float(np.abs(change).max()) < SETTLED:
            break
    final = theta
    return _Model(
        lambda t: slopes(t, final),
        lambda t: np.asarray(final[0] + shape(t, float(final[1]), float(final[2]))),
        np.linalg.pinv(rows.T @ rows),
        final,
    )


def _scatter(residuals: Curve, sweep: Sweep, leverage: Curve) -> float:
    """How much more the readings scatter than they should, 1 unless that is improbable."""
    freedom = len(residuals) - float(np.sum(leverage))
    if freedom < 0.5:
        return 1.0
    chi2 = float(np.sum((residuals / sweep.u_mm) ** 2))
    import scipy.stats  # noqa: PLC0415, it takes as long to read in as all the rest

    improbable = float(scipy.stats.chi2.sf(chi2, freedom)) < IMPROBABLE
    return math.sqrt(max(chi2 / freedom, 1.0)) if improbable else 1.0


def _leverage(sweep: Sweep, model: _Model) -> Curve:
    design = model.design(sweep.t_deg) / sweep.u_mm[:, None]
    return np.asarray(np.einsum("ij,jk,ik->i", design, model.covariance, design))


def _outliers(residuals: Curve, sweep: Sweep, leverage: Curve) -> list[bool]:
    """The one reading that stands out most, if it does: it drags the curve, so its honest neighbours seem out too."""
    out = np.zeros(len(residuals))
    free = leverage <= TOO_MUCH_LEVERAGE
    out[free] = np.abs(residuals[free]) / (sweep.u_mm[free] * np.sqrt(1 - leverage[free]))
    worst = int(np.argmax(out))
    return [at == worst and bool(out[at] > OUTLIER) for at in range(len(out))]


def _angle_u(t_min: float, model: _Model, covariance: Curve, sweep: Sweep) -> float:
    step = 0.5
    around = np.array([t_min - step, t_min, t_min + step])
    left, middle, right = model.value(around)
    bend = (left - 2 * middle + right) / step**2
    turn = model.design(around)
    slope = (turn[2] - turn[0]) / (2 * step)
    u_slope = math.sqrt(max(float(slope @ covariance @ slope), 0.0))
    return math.hypot(u_slope / bend if bend > 1e-9 else 0.0, sweep.wheel_u_deg)


def _next(
    sweep: Sweep, model: _Model, covariance: Curve, t_min: float, own_u: float, *, bracketed: bool
) -> float | None:
    """Past the end where the minimum is not bracketed, else the whole degree that shrinks U most; None for enough."""
    low, high = float(sweep.t_deg.min()), float(sweep.t_deg.max())
    if not bracketed:
        return low - STEP_PAST_DEG if t_min <= low + 1e-9 else high + STEP_PAST_DEG
    candidates = np.arange(math.ceil(low), math.floor(high) + 1.0)
    if not candidates.size:
        return None
    u_new = float(np.median(sweep.u_mm))
    gradient = model.design(np.array([t_min]))[0]
    design = model.design(candidates)
    # One more row with weight 1/u: the covariance falls by a rank-one term (Sherman-Morrison).
    shared = design @ covariance @ gradient
    own = np.einsum("ij,jk,ik->i", design, covariance, design)
    left = own_u**2 - shared**2 / (u_new**2 + own)
    best = int(np.argmin(left))
    gained = 2 * (own_u - math.sqrt(max(float(left[best]), 0.0)))
    return float(candidates[best]) if gained > ENOUGH_MM else None


def looks_shut(sweep: Sweep, crank: SliderCrank) -> bool:
    """Whether readings follow the piston alone, as no valve does about overlap: both shut, at firing TDC."""
    moved = sweep.c_mm - sweep.k * crank.travel_mm(sweep.t_deg)
    span = float(np.ptp(sweep.t_deg))
    return span >= 10.0 and float(np.ptp(moved)) < 0.10


def as_sweep(t_deg: ArrayLike, c_mm: ArrayLike, u_mm: ArrayLike, k: float) -> Sweep:
    """A sweep from plain sequences: angles [deg], clearances [mm], u of each or of all [mm]."""
    t, c = np.asarray(t_deg, dtype=float), np.asarray(c_mm, dtype=float)
    return Sweep(t, c, np.broadcast_to(np.asarray(u_mm, dtype=float), t.shape).copy(), k)
