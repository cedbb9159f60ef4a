"""A robust curve through the points of an edge, and the distance between two such curves."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.interpolate import BSpline, make_lsq_spline
from scipy.spatial.distance import cdist

from mockup.camera.scan import Floats, longest_run

DEGREE = 3
KNOTS_MM = 2.0
"""The spacing of the spline's knots: an imprint bends over such lengths, the marks of the knife should not count."""
LEAST_SCATTER_MM = 0.001
"""The smallest scatter assumed for an edge; points that agree better are not rejected."""
FEWEST_SPANS, MOST_SPANS = 3, 24
SHOWN = 240
"""Number of places along the slice at which the thickness is reported [1]."""


@dataclass(frozen=True, slots=True)
class Curve:
    """An edge in the plane: y over x, both [mm].

    ``scatter_mm``: standard deviation of its points about it [mm].

    ``kept``: share of its points that fit it, 0 to 1 [1]. ``follows``: how many neighbouring points are correlated [1].
    ``left_out``: the longest stretch, as a share, whose points do not fit [1].
    """

    spline: BSpline
    scatter_mm: float
    kept: float
    follows: float
    left_out: float
    count: int

    def u_mm(self) -> float:
        """Standard uncertainty of the curve's position, between its ends [mm]."""
        free = len(self.spline.c)
        return self.scatter_mm * math.sqrt(min(free * self.follows / max(self.count * self.kept, 1.0), 1.0))


def through(points: Floats) -> Curve:
    """Return the curve through an edge's points, shape (count, 2) [mm]; outliers hardly count.

    A cubic spline by least squares, reweighted by Tukey's biweight (Mosteller and Tukey, Data Analysis and Regression,
    1977). Raises ValueError where there are too few points.
    """
    points = points[np.argsort(points[:, 0], kind="stable")]
    x, y = points[:, 0] + 1e-9 * np.arange(len(points)), points[:, 1]
    spans = int(np.clip(np.ptp(x) / KNOTS_MM, FEWEST_SPANS, MOST_SPANS))
    if len(x) < 4 * (spans + DEGREE):
        raise ValueError("too few points for a curve")
    inner = np.quantile(x, np.linspace(0, 1, spans + 1)[1:-1])
    knots = np.concatenate([[x[0]] * (DEGREE + 1), inner, [x[-1]] * (DEGREE + 1)])
    weights = np.ones(len(x))
    for _ in range(8):
        spline = make_lsq_spline(x, y, knots, DEGREE, w=weights)
        off = y - spline(x)
        scale = max(1.4826 * float(np.median(np.abs(off))), LEAST_SCATTER_MM)
        weights = np.maximum(1 - (off / (4.7 * scale)) ** 2, 0.0) ** 2
        weights = np.where(weights > 0, np.maximum(weights, 1e-3), 1e-6)
    kept = np.abs(off) <= 3 * scale
    rest = off[kept]
    scatter = float(np.std(rest))
    together = float(np.mean(rest[1:] * rest[:-1]) / max(scatter**2, 1e-18))
    together = min(max(together, 0.0), 0.95)
    left_out = longest_run(~kept) / len(x)
    return Curve(spline, scatter, float(kept.mean()), (1 + together) / (1 - together), left_out, len(x))


@dataclass(frozen=True, slots=True)
class Apart:
    """The thickness of a slice: ``x_mm`` and ``thickness_mm``, shape (240,), and its thinnest.

    ``first`` and ``second``: the two ends of the thinnest place, shape (2,) [mm].
    """

    x_mm: Floats
    thickness_mm: Floats
    first: Floats
    second: Floats

    @property
    def thinnest_mm(self) -> float:
        """The smallest distance between the two edges [mm]."""
        return float(np.hypot(*(self.second - self.first)))

    @property
    def at_an_end(self) -> bool:
        """Whether the thinnest place is at an end of the searched part and may continue beyond."""
        place = int(self.thickness_mm.argmin())
        return place in (0, len(self.x_mm) - 1)


def apart(one: Curve, other: Curve, start_mm: float, end_mm: float) -> Apart:
    """Return the distance between two edges [mm], as jaws would measure it.

    Reported at places of shape (240,).
    """
    x = np.linspace(start_mm, end_mm, SHOWN)
    here = np.column_stack([x, one.spline(x)])
    # The other edge is searched a little further: the point facing an end lies beyond it where the slice is askew.
    low, high = (float(other.spline.t[place]) for place in (0, -1))
    wide = np.linspace(low, high, 3 * SHOWN)
    there = np.column_stack([wide, other.spline(wide)])
    between = cdist(here, there)
    nearest = between.argmin(axis=1)
    thickness = between[np.arange(SHOWN), nearest]
    place = int(thickness.argmin())
    return Apart(x, thickness, here[place], there[nearest[place]])
