"""Decisions and tolerance stacks against the normal distribution, and JCGM 106.

JCGM 106:2012, 7.2 and 8.3 (from memory): with a standard uncertainty u and a lower tolerance limit T, the probability
of conformity of a measured y is Phi((y - T) / u); a guard band of w = 2u accepts from T + 2u, where that is 97.7 %.
"""

import numpy as np
import pytest
from scipy.stats import norm

from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import Limit, State, judge
from mockup.plans.batch import Batch
from mockup.plans.search import CAM
from mockup.plans.sensitivity import Tolerances, tolerance_stack
from mockup.quantity.value import Value
from tests.making import clay, engine, inclined, job, short_eight, thou


@pytest.mark.parametrize("u", [0.01, 0.05, 0.3])
@pytest.mark.parametrize("away", np.linspace(-4, 4, 33))
def test_a_state_is_a_bound_on_the_probability_of_conformity(u, away):
    minimum = 2.0
    conforms = norm.cdf(away)
    state = judge(Value(minimum + away * u, u), Limit(minimum))
    if state is State.CLEAR:
        assert conforms >= norm.cdf(2) - 1e-9
    elif state is State.SHORT:
        assert conforms < norm.cdf(-2) + 1e-9
    else:
        assert norm.cdf(-2) - 1e-9 <= conforms <= norm.cdf(2) + 1e-9


def test_the_guard_here_is_stricter_than_the_usual_one_and_by_how_much():
    # ISO 14253-1:2017 takes 1.65 u by default (from memory), 95 % on one side; here it is 2 u, 97.7 %.
    assert norm.cdf(1.65) == pytest.approx(0.950, abs=0.001)
    assert norm.cdf(2) == pytest.approx(0.9772, abs=0.0001)
    assert judge(Value(2.0 + 1.65 * 0.05, 0.05), Limit(2.0)) is State.CLOSE
    assert judge(Value(2.0 + 2.00 * 0.05, 0.05), Limit(2.0)) is State.CLEAR


def test_the_monte_carlo_meets_the_closed_form_where_everything_is_linear():
    # Valves square to the bore, no cam: margin is a sum of normals, and Phi of its mean over its deviation.
    plain = job(clay=tuple(clay(t, c, s) for c in (1, 2) for t, s in ((80 + c, Side.INTAKE), (101, Side.EXHAUST))))
    many = Batch(evaluate(plain))
    tolerances = Tolerances(gasket_mm=0.06, cam_deg=0, ratio=0, relief_mm=0.08, deck_mm=0.04)
    stack = tolerance_stack(many, tolerances)
    for each in stack.each:
        if each.check.kind in (FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK):
            sigma = np.sqrt(each.check.figure.u**2 + 0.03**2 + 0.04**2 + 0.02**2)
            expected = norm.cdf(each.check.margin / sigma)
            # Three and a half standard deviations of a share of 100,000 draws.
            assert each.holds == pytest.approx(expected, abs=3.5 * np.sqrt(expected * (1 - expected) / stack.draws))
        if each.check.kind is QUENCH_CHECK:
            sigma = np.sqrt(each.check.figure.u**2 + 0.03**2 + 0.02**2)
            y, limit = each.check.figure.value, each.check.limit
            expected = norm.cdf((limit.high - y) / sigma) - norm.cdf((limit.low - y) / sigma)
            assert each.holds == pytest.approx(expected, abs=0.005)


def test_a_cams_tolerance_acts_by_its_slope_where_it_is_small():
    many = Batch(evaluate(short_eight(engine=engine(cylinders=8, intake=inclined(12.0), rocker_ratio=1.5))))
    small = tolerance_stack(many, Tolerances(gasket_mm=0, cam_deg=0.5, ratio=0, relief_mm=0))
    at = next(at for at, one in enumerate(small.each) if one.check.label == "Intake 8")
    value = many.figures({CAM: np.array([-0.5, 0.5])}).value
    per_deg = value[0, at] - value[1, at]
    check = small.each[at].check
    # A moved cam is only as good as the curve is straight; over half a degree that is very nearly so.
    sigma = np.hypot(check.figure.u, per_deg * 0.25)
    assert small.each[at].holds == pytest.approx(norm.cdf(check.margin / sigma), abs=0.01)
    assert 0.5 * thou(1) < per_deg < 6 * thou(1)
