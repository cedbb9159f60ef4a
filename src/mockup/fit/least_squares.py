"""A damped least-squares fit whose uncertainty can be split by source.

Rows are readings over their noise and prior knowledge over its u (priors are rows like any other). Gauss-Newton steps
are damped after Levenberg and Marquardt, so that a step never makes the fit worse. With C = (J'J)^-1 row i moves the
parameters by C J_i', so the variance of a figure g is the sum of (g C J_i')^2 over the rows. Sources: weighted least
squares and its covariance, any text (e.g. Draper and Smith, Applied Regression Analysis); More 1978, The
Levenberg-Marquardt algorithm; maths in docs/how-it-computes.md, "From readings to the closest point".
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Curve = NDArray[np.float64]
MOST_STEPS = 60
SETTLED = 1e-4
"""A step that moves every weighted row by less than this ends the fit."""


@dataclass(frozen=True, slots=True)
class Solution:
    """The solution: ``theta`` (p,), ``moves`` (p, rows) by one unit of a row, ``converged``."""

    theta: Curve
    moves: Curve
    jacobian: Curve
    residuals: Curve
    converged: bool

    @property
    def covariance(self) -> Curve:
        """Covariance of the parameters, shape (p, p), each in its own unit."""
        return np.asarray(self.moves @ self.moves.T)


def damped_fit(rows: Callable[[Curve], tuple[Curve, Curve]], start: Curve) -> Solution:
    """Minimise the sum of squares of weighted rows from ``start`` (p,).

    ``rows``: returns the residuals, wanted - computed, (n,), and the slopes of the computed, (n, p), both over their u,
    at given parameters.
    """
    theta, damping = start, 1e-3
    residuals, jacobian = rows(theta)
    cost, converged = float(residuals @ residuals), False
    for _ in range(MOST_STEPS):
        normal, downhill = jacobian.T @ jacobian, jacobian.T @ residuals
        step = np.linalg.solve(normal + damping * np.diag(np.diag(normal)), downhill)
        tried = theta + step
        new_residuals, new_jacobian = rows(tried)
        new_cost = float(new_residuals @ new_residuals)
        small = float(np.abs(jacobian @ step).max()) < SETTLED
        if new_cost <= cost * (1 + 1e-12):
            theta, residuals, jacobian, cost = tried, new_residuals, new_jacobian, new_cost
            damping = max(damping / 10, 1e-9)
        else:
            damping *= 10
        if small:
            converged = bool(np.isfinite(cost))
            break
        if damping > 1e9:
            break
    inverse = np.linalg.inv(jacobian.T @ jacobian)
    return Solution(theta, inverse @ jacobian.T, jacobian, residuals, converged)
