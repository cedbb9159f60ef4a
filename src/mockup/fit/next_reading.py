"""Where to read a valve next: beyond the end, or where one more reading reduces U most.

Source: one more row of least squares lowers a covariance by a rank-one term (Sherman-Morrison), any text on regression.
"""

import math

import numpy as np

from mockup.fit.least_squares import Solution
from mockup.fit.valve_model import Sweep, ValveModel
from mockup.quantity.corrections import UncertaintySource
from mockup.quantity.solvers import coverage
from mockup.quantity.value import Value

STEP_PAST_DEG = 5.0


def next_reading(
    sweep: Sweep, model: ValveModel, solved: Solution, minimum: Value, t_min: float, scale: float, *, bracketed: bool
) -> tuple[float | None, float]:
    """Return where to read next [deg], and how much that takes off U [mm].

    Beyond the end where the minimum is not bracketed. Otherwise the whole degree, new or already read, that shrinks U
    most, counting one more degree of freedom.
    """
    n = len(sweep.t_deg)
    low, high = (float(sweep.t_deg.min()), float(sweep.t_deg.max())) if n else (round(t_min), round(t_min))
    if not bracketed and n and model.priors[0] is UncertaintySource.CURVE:
        return (low - STEP_PAST_DEG if t_min <= low + 1e-9 else high + STEP_PAST_DEG), minimum.expanded
    low, high = min(low, math.floor(t_min)), max(high, math.ceil(t_min))
    candidates = np.unique(np.append(np.arange(math.ceil(low), math.floor(high) + 1.0), sweep.t_deg))
    usual = float(np.median(sweep.u_mm)) if n else (sweep.drop.u if sweep.drop else 0.01)
    gradient = model.design(np.array([t_min]), solved.theta)[0]
    design = model.design(candidates, solved.theta)
    # One more row with weight 1/u: the covariance falls by a rank-one term (Sherman-Morrison).
    shared = design @ solved.covariance @ gradient
    own = np.einsum("ij,jk,ik->i", design, solved.covariance, design)
    less = shared**2 / ((usual * scale) ** 2 + own)
    best = int(np.argmax(less))
    left = math.sqrt(max(minimum.u**2 - float(less[best]), 0.0))
    k = coverage(minimum.freedom + 1) if math.isfinite(minimum.freedom) else 2.0
    gain = minimum.expanded - k * left
    if not bracketed and n:
        return (low - STEP_PAST_DEG if t_min <= float(sweep.t_deg.min()) + 1e-9 else high + STEP_PAST_DEG), gain
    return float(candidates[best]), gain
