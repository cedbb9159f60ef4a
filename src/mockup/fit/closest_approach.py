"""The closest approach of a valve from a few readings: fit, minimum, next reading.

The model is in ``valve_model``. The noise of a reading is its instrument's repeatability, corrected by the residuals.
The minimum's U comes from the delta method, by source. Sources: as in ``least_squares`` and ``instruments``; derivation
in docs/how-it-computes.md.
"""

import math
from dataclasses import replace

import numpy as np

from mockup.fit.closest_point import Closest, Fitted
from mockup.fit.few_readings import FewFigure, few_readings, found_by_turning
from mockup.fit.least_squares import Solution
from mockup.fit.next_reading import STEP_PAST_DEG, next_reading
from mockup.fit.scatter import Scatter, repeats_within_sweep
from mockup.fit.uncertainty_parts import of_parts, parts_at, with_part
from mockup.fit.valve_model import PHASE_U_DEG, Curve, Sweep, ValveModel, with_lobe, without_lobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.corrections import UncertaintySource
from mockup.quantity.solvers import student
from mockup.quantity.value import MM_PER_THOU, Value

OUTLIER = 0.99977
"""A reading beyond this quantile of Student's t is an outlier: 3.5 standard deviations for many readings."""
TOO_MUCH_LEVERAGE = 0.95
BLUNDER = 8.0
"""A residual this many times the noise is a slip in reading or writing, and tells nothing about the noise."""
UNEXPLAINED = 5.0
"""A smallest reading this many times its noise above its own curve is asked about: common practice, no source."""
UNLIKELY = 1.8
"""Readings that scatter this many times more than their instrument are searched for a wrong one."""
FEWEST_TO_BLAME_ONE = 4
BLAME_TIMES, BLAME_LEAST = 5.0, 30.0
"""One reading is to blame if leaving it out reduces the misfit, in squares of the noise, by this factor and amount."""
AWAY_TIMES = 3.0
"""Readings that move the cam this many times further than chance does show that it is elsewhere."""
AWAY_DEG = 10.0
"""The scatter of such a cam about its card, a standard deviation [deg]: about a tooth of its chain, no source."""
NOT_DEGREED_TIMES = 2.0
"""How much wider the position of a cam that was not degreed is, where the closest point hardly constrains it."""
WHOSE_LOBE_MM = (5 * MM_PER_THOU, 2 * MM_PER_THOU)
"""The effect of another cam's lobe on a figure from one angle, and from two, a standard uncertainty [mm].

Our own, by the virtual engines. More angles, or degreeing, would show that it is another cam.
"""
STANDS_OUT_MM = 2 * MM_PER_THOU
"""A reading less than this off its curve decides nothing: common practice, no source."""
NO_CURVE = 4.0
"""A curve whose root mean square misfit is this many times the noise does not explain its readings: our own bound."""
GRID_DEG = 0.25
REACH_DEG = 20.0


class Fit:
    """One sweep being fitted: first with the stated noise, then with the noise it shows."""

    def __init__(self, sweep: Sweep, crank: SliderCrank, train: ValveTrain | None) -> None:
        self.sweep, self.crank, self.train = sweep, crank, train
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
        """What this sweep tells about the noise; nothing where one of its readings is a blunder."""
        n = len(self.sweep.t_deg)
        if self.few:
            return repeats_within_sweep(self.sweep)
        if self.first is None or not n or float(np.abs(self.first.residuals[:n]).max()) > BLUNDER:
            return Scatter()
        squares = float((self.first.residuals[:n] ** 2).sum())
        spent = float(np.einsum("ij,ji->", self.first.jacobian[:n], self.first.moves[:, :n]))
        return Scatter(squares, max(n - spent, 0.0))

    def closest(self, sheet: Scatter) -> Closest | None:
        """Return the closest approach, with the noise of all readings alike; None if nothing tells."""
        own = self.scatter
        noise = (sheet if own.freedom or not len(self.sweep.t_deg) else self._with_blunder()).noise
        if self.few:
            return _few(self.sweep, noise)
        if self.model is None or self.first is None:
            return None
        # The noise found from the residuals weights a reading against the prior knowledge.
        solved = self.model.solve(self.sweep.u_mm * noise.u, self.first.theta)
        if self.train is not None and _is_away(self.sweep, solved):
            found = self._with_the_cam_away(noise, solved)
        else:
            found = _fitted(self.sweep, self.model, solved, noise, known=self.known)
        return replace(found, suspect=self._suspect()) if found.doubtful or found.scatter > UNLIKELY else found

    def _suspect(self) -> int | None:
        """Return the one reading without which the others fit, if leaving out no other one helps."""
        n = len(self.sweep.t_deg)
        if n < FEWEST_TO_BLAME_ONE:
            return None
        misfit = []
        for at in range(n):
            kept = np.arange(n) != at
            sweep = replace(
                self.sweep, t_deg=self.sweep.t_deg[kept], c_mm=self.sweep.c_mm[kept], u_mm=self.sweep.u_mm[kept]
            )
            first = Fit(sweep, self.crank, self.train).first
            misfit.append(math.inf if first is None else float((first.residuals**2).sum()))
        least, next_least = sorted(misfit)[:2]
        to_blame = least * BLAME_TIMES < next_least and next_least - least > BLAME_LEAST
        return int(np.argmin(misfit)) if to_blame else None

    def _with_the_cam_away(self, noise: Value, near: Solution) -> Closest:
        """Return the fit with the cam's position unknown within a tooth."""
        assert self.train is not None
        sweep = replace(self.sweep, phase_u_deg=AWAY_DEG)
        model = with_lobe(sweep, self.crank, self.train)
        solved = model.solve(sweep.u_mm * noise.u, near.theta)
        off = Value(float(solved.theta[2]), math.sqrt(max(float(solved.covariance[2, 2]), 0.0)))
        return replace(_fitted(sweep, model, solved, noise, known=self.known), cam_off=off)

    def _with_blunder(self) -> Scatter:
        """A sweep with a blunder is as uncertain as its own scatter shows."""
        if self.first is None:
            return Scatter()
        n = len(self.sweep.t_deg)
        spent = float(np.einsum("ij,ji->", self.first.jacobian[:n], self.first.moves[:, :n]))
        return Scatter(float((self.first.residuals[:n] ** 2).sum()), max(n - spent, 0.0))


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
    if known is not None:
        parts = with_part(parts, UncertaintySource.LOBE, _whose_lobe_u_mm(sweep))
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
        outlier=tuple(_outliers(residuals, np.hypot(sweep.u_mm * scale, model.table_u_mm), leverage, noise.freedom)),
        noise=noise,
        scatter=scale,
        next_deg=next_deg,
        gain_mm=gain,
        lift_known=bool(known),
        grid_deg=grid,
        curve_mm=curve,
        band_mm=np.sqrt(np.clip(np.einsum("ij,jk,ik->i", design, solved.covariance, design), 0.0, None)),
        fitted=_fitted_at(sweep, model, solved, noise.freedom) if fitted else None,
        doubtful=_doubtful(sweep, model, residuals, solved, minimum),
    )


def _fitted_at(sweep: Sweep, model: ValveModel, solved: Solution, freedom: float) -> Fitted:
    n = len(sweep.t_deg)
    read = solved.moves[
        :, [*range(n), *(n + at for at, of in enumerate(model.priors) if of is UncertaintySource.REPEATABILITY)]
    ]
    # The drop is the first parameter: the clearance at TDC with the valve shut.
    parts = parts_at(sweep, model, solved, np.eye(1, len(solved.theta))[0], 0.0)
    if sweep.phase_u_deg == PHASE_U_DEG:
        less_sure = (
            replace(part, u=NOT_DEGREED_TIMES * part.u) if part.of is UncertaintySource.TIMING else part
            for part in parts
        )
        parts = tuple(sorted(less_sure, key=lambda part: -part.u))
    return Fitted(
        theta=solved.theta,
        covariance=solved.covariance,
        noise=read @ read.T,
        freedom=freedom,
        drop=of_parts(float(solved.theta[0]), parts, freedom),
        drop_parts=parts,
    )


def _whose_lobe_u_mm(sweep: Sweep) -> float:
    """Return the uncertainty for a lobe not shown to be the installed one, by angles read [mm]."""
    angles = len(np.unique(sweep.t_deg))
    confirmed = sweep.phase_u_deg != PHASE_U_DEG or not 0 < angles <= len(WHOSE_LOBE_MM)
    return 0.0 if confirmed else WHOSE_LOBE_MM[angles - 1]


def _is_away(sweep: Sweep, solved: Solution) -> bool:
    """Return whether the readings pull the cam further from its position than chance would.

    The variance of the movement is what the data take off the parameter's variance. Source: Bayes' rule, normal, any
    text.
    """
    told = sweep.phase_u_deg**2 - float(solved.covariance[2, 2])
    # A cam degreed here is where it was found: readings that contradict it fit no curve.
    not_degreed = sweep.phase_u_deg == PHASE_U_DEG
    return (
        not_degreed and len(sweep.t_deg) > 1 and abs(float(solved.theta[2])) > AWAY_TIMES * math.sqrt(max(told, 1e-4))
    )


def _few(sweep: Sweep, shown: Value) -> Closest:
    """Return a figure from one or two angles without a lobe, with the closest angle's U."""
    noise = Value(0.0, float(np.median(sweep.u_mm)) * shown.u, shown.freedom)
    found = few_readings(sweep.t_deg, sweep.c_mm, noise, sweep.shared_u_mm, sweep.side)
    low, high = float(sweep.t_deg.min()), float(sweep.t_deg.max())
    # Five degrees toward the assumed closest point.
    following = high + STEP_PAST_DEG if found.angle.value > (low + high) / 2 else low - STEP_PAST_DEG
    return _without_curve(sweep, found, noise, shown.u, following)


def by_turning(sweep: Sweep, sheet: Scatter, step_deg: float | None = None) -> Closest:
    """Return the figure from the smallest readings by turning; ``sweep`` has no usable angles.

    ``step_deg``: steps of turning, 0 past the smallest and back, None where not stated [deg].
    """
    shown = sheet.noise
    noise = Value(0.0, float(np.median(sweep.u_mm)) * shown.u, shown.freedom)
    found = found_by_turning(float(sweep.c_mm.min()), noise, sweep.shared_u_mm, sweep.side, step_deg)
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


def _doubtful(sweep: Sweep, model: ValveModel, residuals: Curve, solved: Solution, minimum: Value) -> bool:
    if not solved.converged or not math.isfinite(minimum.value + minimum.u):
        return True
    if not len(residuals):
        return False
    smallest = int(np.argmin(sweep.c_mm))
    noise = np.hypot(sweep.u_mm, model.table_u_mm)
    off = float(np.sqrt(np.mean((residuals / noise) ** 2)))
    return bool(residuals[smallest] > UNEXPLAINED * noise[smallest]) or off > NO_CURVE


def _grid(sweep: Sweep, *, known: bool) -> Curve:
    reach = REACH_DEG if known else 0.0
    ends = (float(sweep.t_deg.min()), float(sweep.t_deg.max())) if len(sweep.t_deg) else (-REACH_DEG, REACH_DEG)
    low, high = ends[0] - reach, ends[1] + reach
    return np.linspace(low, high, max(int((high - low) / GRID_DEG) + 1, 3))


def _refined(grid: Curve, curve: Curve, at: int) -> float:
    """Return the minimum between grid points, from the parabola through three of them."""
    if at in (0, len(grid) - 1):
        return float(grid[at])
    left, middle, right = curve[at - 1 : at + 2]
    bend = left - 2 * middle + right
    return float(grid[at] + (0.5 * (left - right) / bend if bend > 0 else 0.0) * (grid[1] - grid[0]))


def _outliers(residuals: Curve, sigma: Curve, leverage: Curve, freedom: float) -> list[bool]:
    """Mark the worst outlier, if any.

    Only one, because it drags the curve and makes honest neighbours look wrong.

    Judged against the noise of the others, since a blunder enlarges its own noise, at the rarity of three and a half
    standard deviations. Source: externally studentised residuals, any text on regression.
    """
    if not len(residuals):
        return []
    out = np.zeros(len(residuals))
    free = (leverage <= TOO_MUCH_LEVERAGE) & (np.abs(residuals) > STANDS_OUT_MM)
    out[free] = np.abs(residuals[free]) / (sigma[free] * np.sqrt(1 - leverage[free]))
    worst = int(np.argmax(out))
    if math.isinf(freedom):
        return [at == worst and bool(out[worst] > student(freedom, OUTLIER)) for at in range(len(out))]
    # Remove this reading's own share from the noise.
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
