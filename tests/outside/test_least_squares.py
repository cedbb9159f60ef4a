"""The closest-approach fit against scipy's curve_fit and a certified data set."""

import numpy as np
import pytest
import scipy.linalg
from scipy.optimize import curve_fit

from mockup.engine.valves import Side
from mockup.fit.valve_model import CUBIC_U_MM, PHASE_U_DEG, QUARTIC_U_MM, Sweep
from mockup.motion.lobes import CardLobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from tests.fitting import as_sweep, closest_approach
from tests.making import thou

CRANK = SliderCrank(45.0, 150.0)
TRAIN = ValveTrain(side=Side.INTAKE, lobe=CardLobe(8.0, 130.0, 2.6, 3.2), centreline_deg=106.0, ratio=1.5)
T = np.array([0.0, 4.0, 9.0, 14.0, 20.0, 25.0])
NOISE = np.array([0.3, -0.2, 0.1, -0.4, 0.2, 0.1]) * thou(1)
C = 2.0 + CRANK.travel_mm(T) - TRAIN.lift_mm(T) + NOISE
U = thou(0.5)


def test_the_fit_without_a_lift_and_its_covariance_are_scipys():
    # Independent library: scipy.optimize.curve_fit with the two priors as two further readings, absolute sigma.
    found = closest_approach(as_sweep(T, C, U, 1.0), CRANK, None)
    centre = T[int(np.argmin(C))]

    def model(x, *q):
        x = np.asarray(x)
        values = np.polynomial.polynomial.polyval((x[:-2] - centre) / 10, q)
        return np.concatenate([values, [q[3], q[4]]])

    seen = np.concatenate([C - CRANK.travel_mm(T), [0.0, 0.0]])
    sigma = np.concatenate([np.full(len(T), U * found.scatter), [CUBIC_U_MM, QUARTIC_U_MM]])
    q, covariance = curve_fit(
        model, np.concatenate([T, [0, 0]]), seen, p0=np.zeros(5), sigma=sigma, absolute_sigma=True
    )
    fitted = CRANK.travel_mm(found.grid_deg) + np.polynomial.polynomial.polyval((found.grid_deg - centre) / 10, q)
    assert found.curve_mm == pytest.approx(fitted, abs=1e-7)
    design = np.vander((found.grid_deg - centre) / 10, 5, increasing=True)
    assert found.band_mm == pytest.approx(np.sqrt(np.einsum("ij,jk,ik->i", design, covariance, design)), rel=1e-5)


def test_the_fit_with_the_lift_known_is_scipys():
    # Independent library: scipy.optimize.curve_fit for C0, wheel and phase with both priors as further readings.
    found = closest_approach(as_sweep(T, C, U, 1.0), CRANK, TRAIN)

    def model(x, c0, wheel, phase):
        x = np.asarray(x)[:-2]
        return np.concatenate([c0 + CRANK.travel_mm(x - wheel) - TRAIN.lift_mm(x - wheel - phase), [wheel, phase]])

    sigma = np.concatenate([np.full(len(T), U * found.scatter), [0.5, PHASE_U_DEG]])
    seen = np.concatenate([C, [0.0, 0.0]])
    q, _ = curve_fit(model, np.concatenate([T, [0, 0]]), seen, p0=[2, 0, 0], sigma=sigma, absolute_sigma=True)
    fine = np.linspace(-10, 30, 4001)
    least = (q[0] + CRANK.travel_mm(fine - q[1]) - TRAIN.lift_mm(fine - q[1] - q[2])).min()
    assert found.minimum.value == pytest.approx(least, abs=1e-5)


def test_leverage_is_the_diagonal_of_the_hat_matrix():
    # Independent method: the hat matrix by scipy's QR factors of the weighted, prior-extended design.
    found = closest_approach(as_sweep(T, C, U, 1.0), CRANK, None)
    design = np.vander((T - T[int(np.argmin(C))]) / 10, 5, increasing=True) / (U * found.scatter)
    held = np.zeros((2, 5))
    held[0, 3], held[1, 4] = 1 / CUBIC_U_MM, 1 / QUARTIC_U_MM
    q, _ = scipy.linalg.qr(np.vstack([design, held]), mode="economic")
    assert found.leverage == pytest.approx((q**2).sum(axis=1)[: len(T)], abs=1e-9)


def test_a_certified_polynomial_is_fitted_exactly():
    # Published: NIST StRD, linear regression, after Wampler (1970): y = 1 + x + x^2 + x^3 + x^4 + x^5, all
    # coefficients certified 1 exactly. Here its part to the fourth power, over the fit's own scaled angle, with priors
    # that weigh nothing against exact readings.
    t = np.linspace(-10, 10, 21)
    x = t / 10
    quartic = 5 + 0.01 * (1 + x + x**2 + x**3 + x**4)
    still = SliderCrank(1e-9, 150.0)
    found = closest_approach(Sweep(t, quartic, np.full(21, 1e-7), 1.0), still, None)
    assert found.curve_mm == pytest.approx(5 + 0.01 * sum((found.grid_deg / 10) ** n for n in range(5)), abs=1e-8)
