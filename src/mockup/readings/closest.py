"""The closest approach of one valve from a few indicator readings: the fit, its minimum, and the next reading to take.

What is fitted stands in ``valve_model``. The noise of a reading is what its instrument repeats within, as the
residuals correct it. Minimum with U by the delta method, taken apart by source. Sources: as in ``fit`` and
``instruments``; derivation in docs/how-it-computes.md.
"""

import math
from dataclasses import dataclass

import numpy as np

from mockup.instruments import noise_after
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.ladder import Doubt, Part
from mockup.quantity.solvers import student
from mockup.quantity.value import Value
from mockup.readings.few import FewFigure, few_readings, found_by_turning
from mockup.readings.fit import Solution
from mockup.readings.next_reading import STEP_PAST_DEG, next_reading
from mockup.readings.parts import of_parts, parts_at
from mockup.readings.valve_model import Curve, Sweep, ValveModel, with_lobe, without_lobe

OUTLIER = 0.99977
"""Beyond this quantile of Student's t a reading stands out: three and a half standard deviations of many."""
TOO_MUCH_LEVERAGE = 0.95
ENOUGH_MM = 0.005
"""Another reading that would shrink U by less than this (0.2 thou) matters to nobody once the state is plain."""
NOTHING_MM = 0.0025
"""By less than this (0.1 thou), nothing whatever the state."""
ENOUGH_READINGS, SCATTERED_READINGS, SCATTERED = 5, 7, 1.2
"""Readings a sweep wants before its noise is known, more where they scatter so many times more than said."""
BLUNDER = 8.0
"""A residual of so many times the noise is a slip of reading or writing, and says nothing of the noise."""
UNEXPLAINED = 5.0
"""A smallest reading this many times its noise above its own curve is asked about: common practice, no source."""
GRID_DEG = 0.25
REACH_DEG = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Fitted:
    """Where a fit with a lobe found everything: drop [mm], wheel and phase [deg], open modes [1]; and how surely.

    ``theta`` (3 + modes,) in that order, ``covariance`` of it; ``noise``: the part of it that the readings' noise
    makes, which is known by ``freedom`` degrees. ``drop``: the first of them with all that is not known of it, and
    ``drop_parts`` what that is made of [mm].
    """

    theta: Curve
    covariance: Curve
    noise: Curve
    freedom: float
    drop: Value
    drop_parts: tuple[Part, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Closest:
    """What the readings say.

    ``minimum`` [mm] and ``angle`` [deg] with their u, ``parts`` what U is made of; ``bracketed``: it lies between the
    readings. ``residuals_mm``, ``leverage`` and ``outlier`` have one entry a reading. ``noise``: of one reading, as the
    residuals have it [mm]; ``scatter``: over what was supposed [1]. ``next_deg``: where to read next [deg], None where
    nothing is gained; ``gain_mm``: what that would take off U [mm]. ``grid_deg``, ``curve_mm``, ``band_mm``: the curve
    with its standard uncertainty, each shape (m,). ``fitted`` where a lobe was known or estimated; ``lift_known`` where
    it was measured. ``doubtful``: the fit did not settle, or its figure lies further below the smallest reading than
    its curve explains: a question, never a figure.
    """

    minimum: Value
    angle: Value
    parts: tuple[Part, ...]
    bracketed: bool
    residuals_mm: tuple[float, ...]
    leverage: tuple[float, ...]
    outlier: tuple[bool, ...]
    noise: Value
    scatter: float
    next_deg: float | None
    gain_mm: float
    lift_known: bool
    grid_deg: Curve
    curve_mm: Curve
    band_mm: Curve
    fitted: Fitted | None = None
    doubtful: bool = False

    @property
    def has_curve(self) -> bool:
        """Whether there is a curve to draw, and not just a figure."""
        return len(self.grid_deg) > 0

    def enough(self, *, undecided: bool) -> bool:
        """Whether another reading changes nothing that matters; ``undecided``: U is what keeps it too close to call.

        A sheet that repeats worse than its instrument is said to is read further before its noise is taken for known.
        """
        least = ENOUGH_READINGS if self.scatter < SCATTERED else SCATTERED_READINGS
        if self.next_deg is None or self.lift_known:
            least = 0
        settled = self.bracketed and len(self.residuals_mm) >= least
        return self.next_deg is None or (settled and self.gain_mm < (NOTHING_MM if undecided else ENOUGH_MM))


@dataclass(frozen=True, slots=True)
class Scatter:
    """How readings scatter about their curve: squares over their noise as supposed, and degrees of freedom [1]."""

    squares: float = 0.0
    freedom: float = 0.0

    def __add__(self, other: "Scatter") -> "Scatter":
        """The scatter of both together: readings of one sheet, taken by the same hand with the same instrument."""
        return Scatter(self.squares + other.squares, self.freedom + other.freedom)

    @property
    def noise(self) -> Value:
        """Noise over what was supposed [1], with its degrees of freedom."""
        return noise_after(1.0, self.squares, self.freedom)


class Fit:
    """One sweep being fitted: first with the noise its instrument is said to have, then with what the sheet shows."""

    def __init__(self, sweep: Sweep, crank: SliderCrank, train: ValveTrain | None) -> None:
        self.sweep = sweep
        self.known = None if train is None else train.lobe.measured
        angles = len(np.unique(sweep.t_deg))
        self.model = self.first = None
        self.few = train is None and 0 < angles < 3
        if train is not None and (angles or sweep.drop is not None):
            self.model = with_lobe(sweep, crank, train)
        elif train is None and angles >= 3:
            self.model = without_lobe(sweep, crank)
        if self.model:
            self.first = self.model.solve(sweep.u_mm, None)

    @property
    def scatter(self) -> Scatter:
        """What this sweep says of the noise; nothing where a blunder stands among its readings."""
        n = len(self.sweep.t_deg)
        if self.few:
            return _within(self.sweep)
        if self.first is None or not n or float(np.abs(self.first.residuals[:n]).max()) > BLUNDER:
            return Scatter()
        squares = float((self.first.residuals[:n] ** 2).sum())
        spent = float(np.einsum("ij,ji->", self.first.jacobian[:n], self.first.moves[:, :n]))
        return Scatter(squares, max(n - spent, 0.0))

    def closest(self, sheet: Scatter) -> Closest | None:
        """The closest approach, with the noise that the whole sheet shows; None with nothing to go by."""
        own = self.scatter
        noise = (sheet if own.freedom or not len(self.sweep.t_deg) else self._with_blunder()).noise
        if self.few:
            return _few(self.sweep, noise)
        if self.model is None or self.first is None:
            return None
        # The noise that the residuals tell is the weight of a reading against what is known beforehand.
        solved = self.model.solve(self.sweep.u_mm * noise.u, self.first.theta)
        return _fitted(self.sweep, self.model, solved, noise, known=self.known)

    def _with_blunder(self) -> Scatter:
        """A sweep with a blunder in it is as unsure as it looks, by itself."""
        if self.first is None:
            return Scatter()
        n = len(self.sweep.t_deg)
        spent = float(np.einsum("ij,ji->", self.first.jacobian[:n], self.first.moves[:, :n]))
        return Scatter(float((self.first.residuals[:n] ** 2).sum()), max(n - spent, 0.0))


def closest_approach(sweep: Sweep, crank: SliderCrank, train: ValveTrain | None) -> Closest | None:
    """The closest approach of one sweep by itself; ``train`` where its lobe was measured, or is estimated from a card.

    With a lobe one reading is enough, or the drop alone. Without one, three different angles are fitted, and one or two
    give a figure with the wide U of not knowing where the closest point lies. None with nothing to go by.
    """
    fit = Fit(sweep, crank, train)
    return fit.closest(fit.scatter)


def _fitted(sweep: Sweep, model: ValveModel, solved: Solution, shown: Value, *, known: bool | None) -> Closest:
    theta, n, scale = solved.theta, len(sweep.t_deg), shown.u
    usual = float(np.median(sweep.u_mm)) if n else (sweep.drop.u if sweep.drop else 0.0)
    noise = Value(0.0, usual * scale, shown.freedom)
    residuals = sweep.c_mm - model.value(sweep.t_deg, theta)
    leverage = np.einsum("ij,ji->i", solved.jacobian[:n], solved.moves[:, :n])
    grid = _grid(sweep, known=known is not None)
    curve = model.value(grid, theta)
    t_min = _refined(grid, curve, int(np.argmin(curve)))
    value = float(model.value(np.array([t_min]), theta)[0])
    parts = parts_at(sweep, model, solved, model.design(np.array([t_min]), theta)[0], t_min)
    minimum = of_parts(value, parts, noise.freedom)
    bracketed = bool(n) and float(sweep.t_deg.min()) + 1e-9 < t_min < float(sweep.t_deg.max()) - 1e-9
    design = model.design(grid, theta)
    next_deg, gain = next_reading(sweep, model, solved, minimum, t_min, scale, bracketed=bracketed)
    fitted = known is not None
    return Closest(
        minimum=minimum,
        angle=Value(t_min, _angle_u(t_min, model, solved, sweep)),
        parts=parts,
        bracketed=bracketed,
        residuals_mm=tuple(residuals.tolist()),
        leverage=tuple(leverage.tolist()),
        outlier=tuple(_outliers(residuals, sweep.u_mm * scale, leverage, noise.freedom)),
        noise=noise,
        scatter=scale,
        next_deg=next_deg,
        gain_mm=gain,
        lift_known=bool(known),
        grid_deg=grid,
        curve_mm=curve,
        band_mm=np.sqrt(np.clip(np.einsum("ij,jk,ik->i", design, solved.covariance, design), 0.0, None)),
        fitted=_fitted_at(sweep, model, solved, noise.freedom) if fitted else None,
        doubtful=_doubtful(sweep, residuals, solved, minimum),
    )


def _fitted_at(sweep: Sweep, model: ValveModel, solved: Solution, freedom: float) -> Fitted:
    n = len(sweep.t_deg)
    read = solved.moves[:, [*range(n), *(n + at for at, of in enumerate(model.priors) if of is Doubt.REPEATABILITY)]]
    # The drop is the first parameter, read where the piston stands at TDC.
    parts = parts_at(sweep, model, solved, np.eye(1, len(solved.theta))[0], 0.0)
    return Fitted(
        theta=solved.theta,
        covariance=solved.covariance,
        noise=read @ read.T,
        freedom=freedom,
        drop=of_parts(float(solved.theta[0]), parts, freedom),
        drop_parts=parts,
    )


def _within(sweep: Sweep) -> Scatter:
    """Repeats at one angle about their mean."""
    usual, squares, freedom = float(np.median(sweep.u_mm)), 0.0, 0
    for angle in np.unique(sweep.t_deg):
        here = sweep.c_mm[sweep.t_deg == angle]
        squares += float(((here - here.mean()) ** 2).sum())
        freedom += len(here) - 1
    return Scatter(squares / usual**2, freedom)


def _few(sweep: Sweep, shown: Value) -> Closest:
    """One or two angles and no lobe: the figure with the U of not knowing where the closest point lies."""
    noise = Value(0.0, float(np.median(sweep.u_mm)) * shown.u, shown.freedom)
    found = few_readings(sweep.t_deg, sweep.c_mm, noise, sweep.shared_u_mm, sweep.side)
    low, high = float(sweep.t_deg.min()), float(sweep.t_deg.max())
    # Toward the closest point as it is supposed, five degrees on.
    following = high + STEP_PAST_DEG if found.angle.value > (low + high) / 2 else low - STEP_PAST_DEG
    return _without_curve(sweep, found, noise, shown.u, following)


def by_turning(sweep: Sweep, sheet: Scatter) -> Closest:
    """The smallest that turning found, the smallest of several; ``sweep`` has no angles to go by."""
    shown = sheet.noise
    noise = Value(0.0, float(np.median(sweep.u_mm)) * shown.u, shown.freedom)
    found = found_by_turning(float(sweep.c_mm.min()), noise, sweep.shared_u_mm, sweep.side)
    return _without_curve(sweep, found, noise, shown.u, round(found.angle.value / 5) * 5.0)


def _without_curve(sweep: Sweep, found: FewFigure, noise: Value, scatter: float, following: float) -> Closest:
    count = len(sweep.t_deg)
    return Closest(
        minimum=found.minimum,
        angle=found.angle,
        parts=tuple(sorted(found.parts, key=lambda part: -part.u)),
        bracketed=False,
        residuals_mm=(0.0,) * count,
        leverage=(1.0,) * count,
        outlier=(False,) * count,
        noise=noise,
        scatter=scatter,
        next_deg=following,
        gain_mm=found.minimum.expanded,
        lift_known=False,
        grid_deg=np.array([]),
        curve_mm=np.array([]),
        band_mm=np.array([]),
    )


def _doubtful(sweep: Sweep, residuals: Curve, solved: Solution, minimum: Value) -> bool:
    if not solved.converged or not math.isfinite(minimum.value + minimum.u):
        return True
    if not len(residuals):
        return False
    smallest = int(np.argmin(sweep.c_mm))
    return bool(residuals[smallest] > UNEXPLAINED * sweep.u_mm[smallest])


def _grid(sweep: Sweep, *, known: bool) -> Curve:
    reach = REACH_DEG if known else 0.0
    ends = (float(sweep.t_deg.min()), float(sweep.t_deg.max())) if len(sweep.t_deg) else (-REACH_DEG, REACH_DEG)
    low, high = ends[0] - reach, ends[1] + reach
    return np.linspace(low, high, max(int((high - low) / GRID_DEG) + 1, 3))


def _refined(grid: Curve, curve: Curve, at: int) -> float:
    """The minimum between grid points, by the parabola through three of them."""
    if at in (0, len(grid) - 1):
        return float(grid[at])
    left, middle, right = curve[at - 1 : at + 2]
    bend = left - 2 * middle + right
    return float(grid[at] + (0.5 * (left - right) / bend if bend > 0 else 0.0) * (grid[1] - grid[0]))


def _outliers(residuals: Curve, sigma: Curve, leverage: Curve, freedom: float) -> list[bool]:
    """The one reading that stands out most, if it does: it drags the curve, so its honest neighbours seem out too.

    Against the noise that the others show, for a blunder makes its own noise large; so much that chance would do it as
    seldom as three and a half standard deviations. Source: externally studentised residuals, any text on regression.
    """
    if not len(residuals):
        return []
    out = np.zeros(len(residuals))
    free = leverage <= TOO_MUCH_LEVERAGE
    out[free] = np.abs(residuals[free]) / (sigma[free] * np.sqrt(1 - leverage[free]))
    worst = int(np.argmax(out))
    if math.isinf(freedom):
        return [at == worst and bool(out[worst] > student(freedom, OUTLIER)) for at in range(len(out))]
    # Of the noise as it was found, what this one reading added is taken out again.
    without = max(freedom - out[worst] ** 2, 1e-3) / max(freedom - 1, 1.0)
    stands_out = out[worst] / math.sqrt(without) > student(max(freedom - 1, 1.0), OUTLIER)
    return [at == worst and bool(stands_out) for at in range(len(out))]


def _angle_u(t_min: float, model: ValveModel, solved: Solution, sweep: Sweep) -> float:
    step = 0.5
    around = np.array([t_min - step, t_min, t_min + step])
    left, middle, right = model.value(around, solved.theta)
    bend = (left - 2 * middle + right) / step**2
    turn = model.design(around, solved.theta)
    slope = (turn[2] - turn[0]) / (2 * step)
    u_slope = math.sqrt(max(float(slope @ solved.covariance @ slope), 0.0))
    return math.hypot(u_slope / bend if bend > 1e-9 else 0.0, sweep.wheel_u_deg)
