"""The slider-crank against the loop-closure equations solved by independent libraries."""

import math

import numpy as np
import pytest
import sympy
from scipy.optimize import root

from mockup.motion.slider_crank import SliderCrank, slider_crank
from tests.making import engine

OFFSETS = (0.0, 1.5, -1.5, 8.0)


@pytest.mark.parametrize("offset", OFFSETS)
def test_travel_agrees_with_scipy_solving_the_loop_closure(offset):
    # Independent library: scipy.optimize.root on r cos a + l cos b = h, r sin a + l sin b = -e for (h, b).
    crank = SliderCrank(44.2, 145.0, offset)

    def height(angle):
        def closure(unknown):
            h, rod_angle = unknown
            x = crank.radius_mm * math.sin(angle) + crank.rod_mm * math.sin(rod_angle) + offset
            return [crank.radius_mm * math.cos(angle) + crank.rod_mm * math.cos(rod_angle) - h, x]

        found = root(closure, [150.0, 0.1], tol=1e-12)
        assert np.abs(found.fun).max() < 1e-9
        return found.x[0]

    angles = np.radians(np.arange(-180, 180, 15))
    heights = np.array([height(angle) for angle in angles])
    travel = crank.travel_mm(np.degrees(angles) - crank.tdc_angle_deg)
    assert travel == pytest.approx(crank.tdc_height_mm - heights, abs=1e-9)


@pytest.mark.parametrize("offset", OFFSETS)
def test_the_radius_gives_the_stroke_back(offset):
    # Independent method: the largest and smallest height of a fine numpy sweep.
    designed = engine(pin_offset_mm=offset)
    travel = slider_crank(designed).travel_mm(np.linspace(0, 360, 200_001))
    assert travel.max() - travel.min() == pytest.approx(designed.stroke_mm, abs=1e-7)
    assert travel.min() == pytest.approx(0.0, abs=1e-9)


def test_near_tdc_travel_follows_its_series():
    # Independent library: sympy's series of the closed form: r (1 + r/l) t^2 / 2, 0.0088 mm at one degree.
    r, rod, t = sympy.symbols("r rod t", positive=True)
    exact = r + rod - (r * sympy.cos(t) + sympy.sqrt(rod**2 - (r * sympy.sin(t)) ** 2))
    leading = sympy.series(exact, t, 0, 3).removeO()
    assert sympy.simplify(leading - r * (1 + r / rod) * t**2 / 2) == 0
    crank = SliderCrank(44.2, 145.0)
    expected = float(leading.subs({r: 44.2, rod: 145.0, t: math.radians(1)}))
    assert float(crank.travel_mm(1.0)) == pytest.approx(expected, rel=1e-3)
    assert expected == pytest.approx(0.0088, abs=5e-5)


def test_slope_and_inverse_agree_with_the_curve():
    crank = SliderCrank(49.2, 172.7, 1.5)
    angles = np.linspace(1, 170, 50)
    gradient = np.gradient(crank.travel_mm(np.linspace(0, 180, 180_001)), 0.001)
    for angle in angles:
        expected = np.interp(angle, np.linspace(0, 180, 180_001), gradient)
        assert crank.slope_mm_per_deg(angle) == pytest.approx(expected, abs=1e-6)
        assert crank.angle_at_deg(float(crank.travel_mm(angle))) == pytest.approx(angle, abs=1e-6)
    with pytest.raises(ValueError, match="further"):
        crank.angle_at_deg(1e6)
