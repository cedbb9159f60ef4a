"""scipy's solvers, read in when the first of them is needed: they take longer to read in than the whole program.

Sources: scipy.optimize.brentq (Brent 1973), scipy.interpolate.CubicSpline.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from numpy.typing import NDArray

if TYPE_CHECKING:
    import numpy as np
    from scipy.interpolate import CubicSpline


def root_between(function: Callable[[float], float], low: float, high: float, xtol: float) -> float:
    """Where ``function`` crosses zero between ``low`` and ``high``, to within ``xtol``; all in the caller's units.

    Raises ValueError where the ends have the same sign.
    """
    from scipy.optimize import brentq  # noqa: PLC0415, see above

    return float(brentq(function, low, high, xtol=xtol))


def natural_spline(x: NDArray[np.float64], y: NDArray[np.float64]) -> CubicSpline:
    """The cubic spline through points, straight beyond its ends: ``x`` rising and ``y``, each shape (n,), n >= 2."""
    from scipy.interpolate import CubicSpline  # noqa: PLC0415, see above

    return CubicSpline(x, y, bc_type="natural")
