"""The parts of a fitted figure's u, by source.

Every row of a fit contributes its effect on the figure, and what all readings share is added. Source: GUM, JCGM
100:2008, 5.1.2 and G.4.
"""

import math

import numpy as np

from mockup.fit.least_squares import Solution
from mockup.fit.valve_model import Curve, Sweep, ValveModel
from mockup.quantity.corrections import Part, UncertaintySource
from mockup.quantity.value import Value, of_variance


def parts_at(sweep: Sweep, model: ValveModel, solved: Solution, gradient: Curve, at_deg: float) -> tuple[Part, ...]:
    """Return the parts of a figure that moves by ``gradient`` (p,), largest first.

    ``at_deg``: the crank angle of the figure [deg].
    """
    by_row = gradient @ solved.moves
    moved = by_row**2
    n = len(sweep.t_deg)
    found = {UncertaintySource.REPEATABILITY: float(moved[:n].sum())}
    for of, variance in zip(model.priors, moved[n:].tolist(), strict=True):
        found[of] = found.get(of, 0.0) + variance
    found[UncertaintySource.INSTRUMENT] = found.get(UncertaintySource.INSTRUMENT, 0.0) + sweep.systematic_u_mm**2
    found[UncertaintySource.TILT] = sweep.tilt_u_mm**2
    found[UncertaintySource.TABLE] = model.table_u_mm**2
    # A different piston travel moves the readings' curve too, and the fit compensates most of it. The first parameter
    # is the height of the curve, so its column gives the weight of each row.
    off = sweep.k * sweep.crank_u_mm(np.append(sweep.t_deg, at_deg))
    taken_up = off[:, :n] @ (by_row[:n] * solved.jacobian[:n, 0])
    found[UncertaintySource.CRANK] = float(((off[:, n] - taken_up) ** 2).sum())
    parts = [Part(of, math.sqrt(variance)) for of, variance in found.items() if variance > 1e-12]
    return tuple(sorted(parts, key=lambda part: -part.u))


def with_part(parts: tuple[Part, ...], of: UncertaintySource, u_mm: float) -> tuple[Part, ...]:
    """Return the parts with ``u_mm`` more of one source [mm], largest first."""
    if not u_mm:
        return parts
    u = math.hypot(u_mm, *(part.u for part in parts if part.of is of))
    return tuple(sorted((Part(of, u), *(part for part in parts if part.of is not of)), key=lambda part: -part.u))


def of_parts(value: float, parts: tuple[Part, ...], freedom: float) -> Value:
    """Return a figure with the u of its parts [mm]; ``freedom``: of its repeatability."""
    fourth = sum(part.u**4 / freedom for part in parts if part.of is UncertaintySource.REPEATABILITY)
    return of_variance(value, sum(part.u**2 for part in parts), fourth)
