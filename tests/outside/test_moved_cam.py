"""The closest point of a moved cam, against scipy's minimiser and envelope theorem.

The curve is written down here again in closed form; only the program's minimum and its shifts are asked for.
"""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar

from mockup.engine.valves import Side
from mockup.fit.approach import Approach, Setting
from mockup.fit.shifts import shift_correction
from mockup.motion.lobes import CardLobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain

RADIUS, ROD, K = 48.0, 150.0, math.cos(math.radians(14.0))
LIFT, HALF_WIDTH, A, B = 8.0, 150.0, 2.0, 3.0
CENTRELINES = {Side.INTAKE: 108.0, Side.EXHAUST: -112.0}
STILL = Setting()

sides = st.sampled_from(list(Side))
advances = st.floats(-10, 10)
ratios = st.floats(-0.2, 0.3)


def approach(side, ratio=1.5):
    lobe = CardLobe(LIFT, HALF_WIDTH, A, B)
    train = ValveTrain(side=side, lobe=lobe, centreline_deg=CENTRELINES[side], ratio=ratio)
    return Approach(SliderCrank(RADIUS, ROD), K, train)


def travel(deg):
    """Slider-crank, closed form of any handbook."""
    angle = math.radians(deg)
    return RADIUS * (1 - math.cos(angle)) + ROD - math.sqrt(ROD**2 - (RADIUS * math.sin(angle)) ** 2)


def lobe_lift(deg):
    """The lobe family of docs/how-it-computes.md, closed form."""
    return LIFT * max(1 - abs(deg / HALF_WIDTH) ** A, 0.0) ** B


def closest(side, advanced=0.0, ratio=1.5):
    """Independent library: scipy.optimize.minimize_scalar; angle [deg], minimum [mm]."""

    def gap(deg):
        return K * travel(deg) - ratio * lobe_lift(deg + advanced - CENTRELINES[side])

    found = minimize_scalar(gap, bounds=(-50, 50), method="bounded", options={"xatol": 1e-9})
    return found.x, found.fun


def shift(side, after, before=STILL):
    return correction(approach(side), before, after).value


def correction(of, before, after):
    """A setting is (advanced, ratio more)."""
    settings = [one if isinstance(one, Setting) else Setting(*one) for one in (before, after)]
    return shift_correction(of, *settings, "").delta


@settings(max_examples=60)
@given(sides, advances, ratios)
def test_the_closest_point_of_any_phase_and_ratio_is_the_one_scipy_finds(side, advanced, more):
    at, least = closest(side, advanced, 1.5 + more)
    of = approach(side)
    low, where = of.least(Setting(advanced, more))
    assert float(low[0]) == pytest.approx(least, abs=2e-4)  # a parabola over a quarter degree
    assert float(where[0]) == pytest.approx(at, abs=0.26)
    assert shift(side, (advanced, more)) == pytest.approx(least - closest(side)[1], abs=4e-4)


@pytest.mark.parametrize("side", list(Side))
def test_a_little_more_ratio_costs_the_lobe_lift_at_the_closest_point(side):
    # Envelope theorem: d(min)/d(ratio) = -lobe lift where it is closest. The trade says the same (common practice, no
    # source): a ratio costs its change times the lobe lift at the closest point, far less than at full lift.
    at, _ = closest(side)
    there = lobe_lift(at - CENTRELINES[side])
    assert shift(side, (0.0, 0.01)) == pytest.approx(-0.01 * there, rel=0.01)
    assert there < 0.5 * LIFT


@pytest.mark.parametrize("side", list(Side))
def test_a_little_advance_costs_the_slope_of_the_lift_at_the_closest_point(side):
    # Envelope theorem again: d(min)/d(advance) = -dL/dt there; by a central difference of the closed form.
    at, _ = closest(side)
    from_nose = at - CENTRELINES[side]
    slope = 1.5 * (lobe_lift(from_nose + 1e-4) - lobe_lift(from_nose - 1e-4)) / 2e-4
    assert shift(side, (0.1, 0.0)) == pytest.approx(-0.1 * slope, rel=0.02)


@settings(max_examples=60)
@given(sides, advances, ratios, advances, ratios)
def test_shifts_add_up_along_any_way_and_back_is_nothing(side, first, more, second, other):
    there, further = (first, more), (second, other)
    assert shift(side, there) + shift(side, further, there) == pytest.approx(shift(side, further), abs=1e-9)
    assert shift(side, there) + shift(side, STILL, there) == pytest.approx(0.0, abs=1e-9)


@given(st.floats(0.5, 10))
def test_advance_takes_from_the_intake_what_it_gives_the_exhaust_a_sign_of(advanced):
    # Common practice, no source: advancing brings the intake closer and lets the exhaust go; retarding the other way.
    assert shift(Side.INTAKE, (advanced, 0.0)) < 0 < shift(Side.EXHAUST, (advanced, 0.0))
    assert shift(Side.EXHAUST, (-advanced, 0.0)) < 0 < shift(Side.INTAKE, (-advanced, 0.0))


@settings(max_examples=40)
@given(sides, st.floats(1, 10) | st.floats(-10, -1))
def test_a_moved_cam_is_known_no_better_than_it_comes_to_stand(side, advanced):
    # A quarter of a degree astray: common practice, no source; what it is worth is scipy's difference of two minima.
    of = approach(side)
    astray = closest(side, advanced + 0.25)[1] - closest(side, advanced)[1]
    assert correction(of, STILL, (advanced, 0.0)).u >= abs(astray) - 1e-4
    assert correction(of, STILL, STILL).u == 0
