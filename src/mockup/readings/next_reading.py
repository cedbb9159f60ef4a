"""Where to read a valve next: past the end of its readings, or where one more reading takes most off U.

Source: one more row of least squares lowers a covariance by a rank-one term (Sherman-Morrison), any text on regression.
"""

import math

import numpy as np

from mockup.quantity.ladder import Doubt
from mockup.quantity.solvers import coverage
from mockup.quantity.value import Value
from mockup.readings.fit import Solution
from mockup.readings.valve_model import Sweep, ValveModel

STEP_PAST_DEG = 5.0


def next_reading(
    sweep: Sweep, model: ValveModel, solved: Solution, minimum: Value, t_min: float, scale: float, *, bracketed: bool
) -> tuple[float | None, float]:
    """Where to read next [deg], and what that takes off U [mm].

    Past the end where the minimum is not bracketed; else the whole degree inside, or again at one that was read, that
    shrinks U most, a degree of freedom more counted.
    """
    n = len(sweep.t_deg)
    low, high = (float(sweep.t_deg.min()), float(sweep.t_deg.max())) if n else (round(t_min), round(t_min))
    if not bracketed and n and model.priors[0] is Doubt.CURVE:
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
