"""Lobes, lift and timing against closed forms and libraries; each source beside it."""

import math

import numpy as np
import pytest
import scipy.interpolate
import sympy
from scipy.optimize import brentq, root

from mockup.engine.cam import Duration, LobeCard, LobeTable
from mockup.engine.valves import Side
from mockup.motion.lobes import CardLobe, TableLobe, card_lobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain


@pytest.mark.parametrize(
    ("a", "b", "w", "lift", "at", "is_mm"),
    [
        (2, 3, 150, 9, 0, 9.0),
        (2, 3, 150, 9, 100, 9 * (1 - (100 / 150) ** 2) ** 3),  # 1.543
        (2, 3, 150, 9, 150, 0.0),
        (2, 2, 140, 8, 70, 4.5),
    ],
)
def test_the_lobe_family_in_closed_form(a, b, w, lift, at, is_mm):
    # Closed form, from the design's own list of check values.
    assert float(CardLobe(lift, w, a, b).lift_mm(at)) == pytest.approx(is_mm, abs=1e-12)


def test_a_fitted_card_solves_the_two_equations_that_scipy_solves():
    # Independent library: scipy.optimize.root on both durations for (b, w) at the a that was taken.
    card = LobeCard(lift_mm=8.2, durations=(Duration(272.0, 0.30), Duration(228.0, 1.27)))
    found = card_lobe(card)

    def equations(unknown):
        b, w = unknown
        return [8.2 * (1 - (duration.deg / 2 / w) ** found.a) ** b - duration.at_mm for duration in card.durations]

    b, w = root(equations, [found.b * 1.05, found.half_width_deg * 1.02]).x
    assert (found.b, found.half_width_deg) == pytest.approx((b, w), rel=1e-6)


def test_the_range_of_a_is_the_one_the_algebra_gives():
    # Independent library: sympy's limits of a(b) for b to 1 and to infinity.
    h1, h2, rho = sympy.Rational(1, 20), sympy.Rational(1, 6), sympy.Rational(7, 6)
    b = sympy.symbols("b", positive=True)
    a = sympy.log((1 - h1 ** (1 / b)) / (1 - h2 ** (1 / b))) / sympy.log(rho)
    low = float(sympy.limit(a, b, 1))
    high = float(sympy.log(sympy.log(h1) / sympy.log(h2)) / sympy.log(rho))
    assert low == pytest.approx(math.log((1 - 1 / 20) / (1 - 1 / 6)) / math.log(7 / 6))
    found = card_lobe(LobeCard(lift_mm=10.0, durations=(Duration(280.0, 0.5), Duration(240.0, 10 / 6))))
    assert low < found.a < high


def test_a_table_is_the_spline_scipy_makes_of_it():
    # Independent library: scipy's make_interp_spline with natural ends, against the curve the program uses.
    angles = np.arange(-120.0, 121.0, 10.0)
    lifts = 9.0 * np.clip(1 - np.abs(angles / 118.0) ** 2.4, 0.0, None) ** 3
    table = LobeTable(side=Side.INTAKE, angles_deg=tuple(angles), lifts_mm=tuple(lifts))
    ends = [(2, 0.0)]
    other = scipy.interpolate.make_interp_spline(angles, lifts, k=3, bc_type=(ends, ends))
    lobe, x = TableLobe(table), np.linspace(-115, 115, 500)
    assert lobe.lift_mm(x - lobe.middle) == pytest.approx(np.clip(other(x), 0.0, None), abs=1e-12)
    assert lobe.flanks_deg(1.27)[0] + lobe.middle == pytest.approx(
        brentq(lambda a: other(a) - 1.27, -115, -20), abs=1e-9
    )


def test_events_of_a_symmetric_lobe_follow_the_textbook():
    # Definition, any text on cam timing: opens at ICL - d/2, closes at ICL + d/2; d = IVO + 180 + IVC.
    card = LobeCard(lift_mm=8.2, durations=(Duration(272.0, 0.30), Duration(228.0, 1.27)))
    train = ValveTrain(side=Side.INTAKE, lobe=card_lobe(card), centreline_deg=108.0)
    opens, closes = train.events_deg(1.27)
    assert (opens, closes) == pytest.approx((108 - 114, 108 + 114))
    ivo_btdc, ivc_abdc = -opens, closes - 180
    assert ivo_btdc + 180 + ivc_abdc == pytest.approx(228.0)


def test_an_eccentric_under_a_flat_follower_lifts_as_plane_geometry_says():
    # Closed form: an eccentric of e under a flat follower stands e cos(cam angle) above its shaft's middle.
    e = 6.0
    crank = np.arange(-360.0, 361.0, 4.0)
    lifts = np.clip(e * np.cos(np.radians(crank / 2)), 0.0, None)  # the cam turns once for two of the crank
    table = LobeTable(side=Side.EXHAUST, angles_deg=tuple(crank), lifts_mm=tuple(lifts))
    lobe = TableLobe(table)
    assert lobe.middle == pytest.approx(0.0, abs=1e-9)
    x = np.linspace(-170, 170, 200)
    assert lobe.lift_mm(x) == pytest.approx(e * np.cos(np.radians(x / 2)), abs=2e-3)


def test_the_closest_point_lies_where_the_trade_finds_it():
    # Common practice, no source: exhaust closest about 5-20 BTDC, intake about 5-20 ATDC, seldom at TDC.
    crank = SliderCrank(44.2, 145.0)
    lobe = card_lobe(LobeCard(lift_mm=8.2, durations=(Duration(284.0, 0.50), Duration(242.0, 1.27))))
    t = np.linspace(-60, 60, 2401)
    for side, centre in ((Side.INTAKE, 104.0), (Side.EXHAUST, -110.0)):
        lift = ValveTrain(side=side, lobe=lobe, centreline_deg=centre, ratio=1.6).lift_mm(t)
        closest = t[int(np.argmin(crank.travel_mm(t) - lift))]
        assert 4 <= (closest if side is Side.INTAKE else -closest) <= 22
