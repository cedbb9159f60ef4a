"""scipy's solvers, read in when the first of them is needed: they take longer to read in than the whole program.

Sources: scipy.optimize.brentq (Brent 1973), scipy.interpolate.CubicSpline, scipy.special.stdtrit (Student's t).
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, lru_cache
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray

if TYPE_CHECKING:
    from scipy.interpolate import CubicSpline


def root_between(function: Callable[[float], float], low: float, high: float, xtol: float) -> float:
    """Where ``function`` crosses zero between ``low`` and ``high``, to within ``xtol``; each in the caller's own unit.

    Raises ValueError where the ends have the same sign.
    """
    from scipy.optimize import brentq  # noqa: PLC0415, see above

    return float(brentq(function, low, high, xtol=xtol))


def natural_spline(x: NDArray[np.float64], y: NDArray[np.float64]) -> CubicSpline:
    """The cubic spline through points, straight beyond its ends: ``x`` rising and ``y``, each shape (n,), n >= 2."""
    from scipy.interpolate import CubicSpline  # noqa: PLC0415, see above

    return CubicSpline(x, y, bc_type="natural")


TWO_SIGMA = 0.9772498680518208
"""The share of a normal distribution below two standard deviations: with it k is 2 where u is surely known."""
FEWEST_FREEDOM = 1.0


@cache
def _coverage_table() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    from scipy.special import stdtrit  # noqa: PLC0415, see above

    one_over = np.linspace(0.0, 1.0 / FEWEST_FREEDOM, 8001)
    return one_over, np.append(2.0, stdtrit(1 / one_over[1:], TWO_SIGMA))


def coverages(freedom: ArrayLike) -> NDArray[np.float64]:
    """The coverage factor k for degrees of freedom, any shape [1], 1 or more; the same shape [1].

    Student's t at the probability of two standard deviations: 2 for many, 2.87 for 4. From a table of scipy's, right to
    1e-6 from 3 degrees of freedom up.
    Source: GUM, JCGM 100:2008, G.3.
    """
    return np.asarray(np.interp(1.0 / np.maximum(np.asarray(freedom, dtype=float), FEWEST_FREEDOM), *_coverage_table()))


@lru_cache(maxsize=4096)
def coverage(freedom: float) -> float:
    """The same for one number of degrees of freedom [1]; a scalar [1]. Readings share a few such numbers."""
    return float(coverages(freedom))


def student(freedom: float, probability: float) -> float:
    """The quantile of Student's t with so many degrees of freedom [1], at a probability between 0 and 1.

    Source: scipy.special.stdtrit.
    """
    from scipy.special import stdtrit  # noqa: PLC0415, see above

    return float(stdtrit(freedom, probability))


def f_exceeds(ratio: float, freedom: float, other: float) -> float:
    """The probability that a ratio of two variances of the same noise, known by so many degrees, exceeds ``ratio`` [1].

    Source: scipy.special.fdtrc (Fisher's F).
    """
    from scipy.special import fdtrc  # noqa: PLC0415, see above

    return float(fdtrc(freedom, other, ratio))
