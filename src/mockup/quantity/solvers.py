"""Solvers; scipy is imported on first use, since importing it takes longer than all else.

Sources: scipy.interpolate.CubicSpline, scipy.special.stdtrit and fdtrc (Student's t, Fisher's F); Chandrupatla 1997.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.polynomial.chebyshev import chebval
from numpy.typing import ArrayLike, NDArray

if TYPE_CHECKING:
    from scipy.interpolate import CubicSpline


def root_between(function: Callable[[float], float], low: float, high: float, xtol: float) -> float:
    """Return where ``function`` is zero from ``low`` to ``high``, to ``xtol``, in its own unit.

    Raises ValueError where both ends have the same sign.
    """
    # scipy's brentq would do, but importing scipy.optimize takes a fifth of a second.
    near, far = _Point(high, function(high)), _Point(low, function(low))
    third, share = far, 0.5
    if near.y == 0 or far.y == 0:
        return high if near.y == 0 else low
    if near.y * far.y > 0:
        raise ValueError("no root between the ends")
    while True:
        x = near.x + share * (far.x - near.x)
        here = _Point(x, function(x))
        # The root stays between ``near`` and ``far``; ``third`` is the point left behind.
        third, far = (near, far) if here.y * near.y > 0 else (far, near)
        near = here
        least = (EPSILON * abs(near.x) + 0.5 * xtol) / abs(far.x - near.x)
        if near.y == 0 or least > 0.5:
            return float(near.x if abs(near.y) < abs(far.y) else far.x)
        share = min(max(_share(near, far, third), least), 1 - least)


EPSILON = 4.5e-16


class _Point(NamedTuple):
    x: float
    y: float


def _share(near: _Point, far: _Point, third: _Point) -> float:
    """Return how far from ``near`` to ``far`` to try next [1], by a parabola where safe.

    Source: T. R. Chandrupatla, A new hybrid quadratic/bisection algorithm, Adv. Eng. Software 28 (1997); from memory.
    """
    across, up = (near.x - far.x) / (third.x - far.x), (near.y - far.y) / (third.y - far.y)
    if third.y == near.y or up**2 >= across or (1 - up) ** 2 >= 1 - across:
        return 0.5
    first = near.y / (far.y - near.y) * third.y / (far.y - third.y)
    second = (third.x - near.x) / (far.x - near.x) * near.y / (third.y - near.y) * far.y / (third.y - far.y)
    return first + second


def natural_spline(x: NDArray[np.float64], y: NDArray[np.float64]) -> CubicSpline:
    """Return the natural cubic spline through ``x`` and ``y``, each (n,), n >= 2.

    It is linear beyond its ends; ``x`` rises.
    """
    from scipy.interpolate import CubicSpline  # noqa: PLC0415, see above

    return CubicSpline(x, y, bc_type="natural")


TWO_SIGMA = 0.9772498680518208
"""The share of a normal distribution below two standard deviations, so that k is 2 for many degrees of freedom."""
FEWEST_FREEDOM = 1.0


_LOG_K = (
    0.8948151774768934,
    0.97789882172075,
    0.07751022305974982,
    -0.006317149651123189,
    -0.0005106600263563191,
    0.0002248115622863755,
    -1.4507198013175225e-05,
    -5.336446631549003e-06,
    1.0719504014634196e-06,
    1.068426774927983e-07,
    -5.95369004922332e-08,
    -1.0817541447764897e-09,
    5.504961212335773e-09,
    -1.6599169643658135e-09,
    1.7422602797539353e-10,
    5.2893836904459117e-11,
    -3.3649051577756496e-11,
)
"""ln(k / 2) over 1 / freedom from 0 to 1: Chebyshev coefficients on [-1, 1], fitted to scipy.special.stdtrit."""


def coverages(freedom: ArrayLike) -> NDArray[np.float64]:
    """Return the coverage factor k for degrees of freedom of any shape [1], the same shape out.

    Student's t at the probability of two standard deviations: 2 for many, 2.87 for 4. A polynomial, correct to 1e-9.
    Source: GUM, JCGM 100:2008, G.3; checked against scipy.special.stdtrit.
    """
    one_over = 1.0 / np.maximum(np.asarray(freedom, dtype=float), FEWEST_FREEDOM)
    return np.asarray(2.0 * np.exp(chebval(2.0 * one_over - 1.0, _LOG_K)))


@lru_cache(maxsize=4096)
def coverage(freedom: float) -> float:
    """Like ``coverages``, for one number of degrees of freedom [1], cached."""
    return float(coverages(freedom))


def student(freedom: float, probability: float) -> float:
    """Return the quantile of Student's t for ``freedom`` [1], at a probability in (0, 1).

    Source: scipy.special.stdtrit.
    """
    from scipy.special import stdtrit  # noqa: PLC0415, see above

    return float(stdtrit(freedom, probability))


def f_exceeds(ratio: float, freedom: float, other: float) -> float:
    """Return the probability that two variances of one noise differ by over ``ratio`` [1].

    ``freedom`` and ``other``: degrees of freedom of numerator and denominator [1]. Source: scipy.special.fdtrc
    (Fisher's F).
    """
    from scipy.special import fdtrc  # noqa: PLC0415, see above

    return float(fdtrc(freedom, other, ratio))
