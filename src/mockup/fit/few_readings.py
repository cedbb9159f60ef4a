"""One or two readings of a valve, or the smallest by turning: how near it may come.

About its closest point the clearance is a parabola with C'' = 0.6 +- 0.25 thou per degree^2. For one or two readings at
known angles the closest angle is 8 +- 6 degrees after overlap TDC for an intake, as much before it for an exhaust;
angle and curvature are tried on a grid, each weighted by how well it explains the second reading. The smallest found by
turning past it and back is within +-3 degrees, so the minimum is 0.9 +- 1.0 thou below the reading. Turned in steps of
n degrees it is anywhere within half a step. Common practice, no source: from simulated engines. Source of the
weighting: Bayes' rule on a grid, any text.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mockup.engine.valves import Side
from mockup.quantity.corrections import Part, UncertaintySource
from mockup.quantity.value import MM_PER_THOU, Value

Curve = NDArray[np.float64]

BEND_MM = (0.6 * MM_PER_THOU, 0.25 * MM_PER_THOU)
"""C'' [mm per degree^2] and its standard deviation."""
CLOSEST_DEG = (8.0, 6.0)
"""The closest angle of an intake after overlap TDC [deg], and its standard deviation."""
TURNED_STEP_DEG = 6.0
"""Turning past the smallest and back finds the angle to +-3 degrees: common practice, no source."""
UNSAID_STEP_DEG = 10.0
"""The step assumed where the turning is not stated: the coarsest usual one, no source."""
BELOW_MM = (0.9 * MM_PER_THOU / TURNED_STEP_DEG**2, 1.1 * MM_PER_THOU / TURNED_STEP_DEG**2)
"""How far the minimum is below the smallest found by turning, and its u, per square of the step [mm/degree^2].

The error is C''/2 x^2 with x anywhere within half a step: mean 0.025 thou by n^2, standard deviation the same; the tail
needs a little more.
"""


@dataclass(frozen=True, slots=True)
class FewFigure:
    """The closest point from few readings: clearance [mm], angle [deg], parts of its U."""

    minimum: Value
    angle: Value
    parts: tuple[Part, ...]


def found_by_turning(
    read_mm: float, noise: Value, own_mm: float, side: Side, step_deg: float | None = None
) -> FewFigure:
    """Return the closest point from the smallest found by turning [mm].

    ``noise`` of the reading, ``own_mm`` the instrument's own u [mm]. ``step_deg``: steps of turning, 0 past the
    smallest and back, None where not stated [deg].
    """
    step = UNSAID_STEP_DEG if step_deg is None else max(step_deg, TURNED_STEP_DEG)
    below, unsure = (one * step**2 for one in BELOW_MM)
    minimum = Value(read_mm - below, unsure) + Value(0.0, noise.u, noise.freedom) + Value(0.0, own_mm)
    parts = (
        Part(UncertaintySource.REPEATABILITY, noise.u),
        Part(UncertaintySource.ANGLE, unsure),
        Part(UncertaintySource.INSTRUMENT, own_mm),
    )
    return FewFigure(minimum, _usual_angle(side), parts)


def _usual_angle(side: Side) -> Value:
    at, unsure = CLOSEST_DEG
    return Value(at if side is Side.INTAKE else -at, unsure)


def few_readings(t_deg: Curve, c_mm: Curve, noise: Value, own_mm: float, side: Side) -> FewFigure:
    """Return the closest point from one or two angles with repeats: (n,) [deg] and [mm].

    ``noise`` of one reading, ``own_mm`` the instrument's own u [mm].
    """
    prior = _usual_angle(side)
    angles = prior.value + prior.u * np.linspace(-3.5, 3.5, 71)
    bends = np.clip(BEND_MM[0] + BEND_MM[1] * np.linspace(-2.2, 3.0, 27), 0.02 * MM_PER_THOU, None)
    angle, bend = (part.ravel() for part in np.meshgrid(angles, bends, indexing="ij"))
    weight = -0.5 * (((angle - prior.value) / prior.u) ** 2 + ((bend - BEND_MM[0]) / BEND_MM[1]) ** 2)
    above = 0.5 * bend[:, None] * (t_deg[None, :] - angle[:, None]) ** 2
    each = c_mm[None, :] - above  # the minimum implied by each reading
    mean = each.mean(axis=1)
    spread = ((each - mean[:, None]) ** 2).sum(axis=1) / noise.u**2
    # Student's t tolerates small misfits, because the noise is not well known.
    weight -= 0.5 * (noise.freedom + len(t_deg) - 1) * np.log1p(spread / noise.freedom)
    share = np.exp(weight - weight.max())
    share /= share.sum()
    minimum = float(share @ mean)
    unsure = float(np.sqrt(share @ (mean - minimum) ** 2))
    read = noise.u / np.sqrt(len(t_deg))
    where = float(share @ angle)
    angle_u = float(np.sqrt(share @ (angle - where) ** 2))
    value = Value(minimum, unsure) + Value(0.0, float(read), noise.freedom) + Value(0.0, own_mm)
    parts = (
        Part(UncertaintySource.ANGLE, unsure),
        Part(UncertaintySource.REPEATABILITY, float(read)),
        Part(UncertaintySource.INSTRUMENT, own_mm),
    )
    return FewFigure(value, Value(where, angle_u), parts)
