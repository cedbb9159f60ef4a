"""What the u of a fitted figure is made of, taken apart by where it comes from.

Every row of a fit moves the figure by so much, and what all readings share is added. Source: GUM, JCGM 100:2008, 5.1.2
and G.4.
"""

import math

import numpy as np

from mockup.quantity.ladder import Doubt, Part
from mockup.quantity.value import Value, of_variance
from mockup.readings.fit import Solution
from mockup.readings.valve_model import Curve, Sweep, ValveModel


def parts_at(sweep: Sweep, model: ValveModel, solved: Solution, gradient: Curve, at_deg: float) -> tuple[Part, ...]:
    """The parts of a figure that moves by ``gradient`` (p,) with the parameters, the largest first.

    ``at_deg``: the crank angle it stands at [deg].
    """
    by_row = gradient @ solved.moves
    moved = by_row**2
    n = len(sweep.t_deg)
    found = {Doubt.REPEATABILITY: float(moved[:n].sum())}
    for of, variance in zip(model.priors, moved[n:].tolist(), strict=True):
        found[of] = found.get(of, 0.0) + variance
    found[Doubt.INSTRUMENT] = found.get(Doubt.INSTRUMENT, 0.0) + sweep.systematic_u_mm**2
    found[Doubt.TILT] = sweep.tilt_u_mm**2
    found[Doubt.TABLE] = model.table_u_mm**2
    # A piston that goes otherwise moves the readings' curve too, and the fit takes most of that up again. The first
    # parameter is the height of the curve, so that its column is what a row weighs.
    off = sweep.k * sweep.crank_u_mm(np.append(sweep.t_deg, at_deg))
    taken_up = off[:, :n] @ (by_row[:n] * solved.jacobian[:n, 0])
    found[Doubt.CRANK] = float(((off[:, n] - taken_up) ** 2).sum())
    parts = [Part(of, math.sqrt(variance)) for of, variance in found.items() if variance > 1e-12]
    return tuple(sorted(parts, key=lambda part: -part.u))


def with_part(parts: tuple[Part, ...], of: Doubt, u_mm: float) -> tuple[Part, ...]:
    """The parts with so much more of one kind [mm], the largest first."""
    if not u_mm:
        return parts
    u = math.hypot(u_mm, *(part.u for part in parts if part.of is of))
    return tuple(sorted((Part(of, u), *(part for part in parts if part.of is not of)), key=lambda part: -part.u))


def of_parts(value: float, parts: tuple[Part, ...], freedom: float) -> Value:
    """A figure with the u that its parts make [mm]; what the readings repeat within is known by ``freedom`` degrees."""
    fourth = sum(part.u**4 / freedom for part in parts if part.of is Doubt.REPEATABILITY)
    return of_variance(value, sum(part.u**2 for part in parts), fourth)
