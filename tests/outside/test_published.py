"""Against figures and definitions from outside; each source beside its check."""

import math

import numpy as np
import pytest
import scipy.constants
import scipy.stats
import sympy
from uncertainties import ufloat

from mockup.base.faults import FaultsError
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.block import Engine, cylinder_volume
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.valves import axial_factor
from mockup.evaluate import evaluate
from mockup.limits.judge import Limit, State, judge
from mockup.quantity.corrections import Correction, parts_of, running_figure
from mockup.quantity.value import MM_PER_INCH, MM_PER_THOU, Value, rectangular, resolution_u
from mockup.readings.instruments import Instrument
from mockup.words.report_text import CC_PER_CUBIC_INCH
from tests.making import clay, deck, engine, inclined, job, job_with_clay, mockup, thou, volumes


def test_unit_constants_are_those_of_scipy():
    # Independent library: scipy.constants (CODATA and the 1959 international yard).
    assert pytest.approx(scipy.constants.inch * 1000, rel=1e-15) == MM_PER_INCH
    assert pytest.approx(scipy.constants.mil * 1000, rel=1e-15) == MM_PER_THOU
    assert pytest.approx((scipy.constants.inch * 100) ** 3, rel=1e-12) == CC_PER_CUBIC_INCH


def test_swept_volume_of_a_four_by_three_bore():
    # Closed form: pi/4 x 4.000^2 x 3.000 cu in = 37.70 cu in = 617.8 cm3.
    one = Engine(cylinders=1, bore_mm=4 * 25.4, stroke_mm=3 * 25.4, rod_length_mm=150.0)
    assert one.swept_cc == pytest.approx(617.8, abs=0.05)
    assert one.swept_cc / CC_PER_CUBIC_INCH == pytest.approx(37.70, abs=0.005)


@pytest.mark.parametrize(("dilation", "u"), [("rectangular", 0.5e-6), ("thermometer", 0.025)])
def test_standard_uncertainty_of_limits_and_scales_as_the_gum_defines(dilation, u):
    # Published: GUM, JCGM 100:2008, 4.3.7: a half-width a known only as limits gives u = a / sqrt 3;
    # F.2.2.1: a scale step d gives u = 0.29 d. Both against the variance of scipy's uniform distribution.
    uniform = scipy.stats.uniform(loc=-u, scale=2 * u)
    assert rectangular(u) == pytest.approx(uniform.std(), rel=1e-12)
    assert resolution_u(2 * u) == pytest.approx(uniform.std(), rel=1e-12)
    assert resolution_u(1.0) == pytest.approx(0.29, abs=0.002)


def test_combined_uncertainty_of_the_gums_end_gauge():
    # Published: GUM, JCGM 100:2008, H.1, end-gauge calibration: components 25, 9.7, 2.9 and 16.6 nm
    # combine to u_c = 32 nm (H.1.3.6; figures from memory). Here each is a rung of a ladder.
    components = (25.0, 9.7, 2.9, 16.6)
    combined = running_figure(tuple(Correction("component", Value(0.0, u)) for u in components))
    assert combined.u == pytest.approx(32.0, abs=0.5)


def test_expanded_uncertainty_is_twice_the_standard_one():
    # Published: GUM 6.2.1 with coverage factor k = 2, about 95 % of a normal distribution (scipy).
    assert Value(0.0, 1.0).expanded == 2.0
    assert scipy.stats.norm.cdf(2) - scipy.stats.norm.cdf(-2) == pytest.approx(0.9545, abs=1e-4)


def test_the_guard_band_keeps_the_risk_of_a_false_clear_below_the_normal_tail():
    # Closed form with scipy's normal distribution, after JCGM 106:2012, 8.3.2 (guard band w = U): a figure
    # accepted at the band's very edge is truly below its limit with probability Phi(-2) = 2.3 %.
    u, low = 0.05, 2.0
    at_the_edge = Value(low + 2 * u, u)
    assert judge(at_the_edge, Limit(low=low)) is State.CLEAR
    assert scipy.stats.norm(at_the_edge.value, u).cdf(low) == pytest.approx(0.02275, abs=1e-5)


def test_instrument_uncertainty_agrees_with_a_simulation():
    # Independent method: a million simulated readings, numpy, seeded.
    random = np.random.default_rng(20260101)
    step, half = 0.0127, 0.0127
    errors = random.uniform(-step / 2, step / 2, 1_000_000) + random.uniform(-half, half, 1_000_000)
    errors += random.normal(0, thou(0.4), 1_000_000)
    gauge = Instrument(key="g", name="gauge", resolution_mm=step, accuracy_mm=half, repeats_mm=thou(0.4))
    assert gauge.u_mm == pytest.approx(errors.std(), rel=0.005)


def test_compression_ratio_and_its_uncertainty_agree_with_a_simulation():
    # Independent method: Monte Carlo of the whole formula (JCGM 101:2008), numpy, seeded, against the
    # linear propagation; 0.5 % is what 200,000 draws and the slight curvature leave.
    random = np.random.default_rng(20260102)

    def draw(mean, u):
        return random.normal(mean, u, 200_000)

    found = evaluate(job()).of_kind(RATIO_CHECK)[0].figure
    dimension = rectangular(0.02)
    bore, stroke = draw(95.25, dimension), draw(98.425, dimension)
    gasket = cylinder_volume(draw(97.0, dimension), draw(thou(36), rectangular(0.0254)))
    gauge_u = math.hypot(0.0127 / math.sqrt(12), thou(0.5), rectangular(0.0127))
    above = cylinder_volume(bore, draw(thou(4), gauge_u))
    clearance = draw(70.0, rectangular(0.3)) + draw(5.0, rectangular(0.3)) + gasket + above
    ratio = (cylinder_volume(bore, stroke) + clearance) / clearance
    assert found.value == pytest.approx(ratio.mean(), rel=1e-4)
    assert found.u == pytest.approx(ratio.std(), rel=0.005)


def test_ladder_sums_agree_with_the_uncertainties_library():
    # Independent library: uncertainties.
    tilted = engine(intake=inclined(17.0))
    under = mockup(gasket_state=GasketState.SNUGGED, gasket_mm=thou(52), lash_mm=thou(6))
    check = evaluate(job_with_clay(clay(120), engine=tilted, mockups=(under,))).of_kind(FACE_INTAKE_CHECK)[0]
    read = ufloat(thou(120), math.hypot(resolution_u(0.0254), thou(3), rectangular(0.0254)))
    k = math.cos(math.radians(17.0))
    expected = read + k * (ufloat(thou(36), rectangular(0.0254)) - ufloat(thou(52), 0.037)) - thou(6)
    assert check.figure.value == pytest.approx(expected.n, abs=1e-9)
    assert check.figure.u == pytest.approx(expected.s, rel=1e-9)


def test_axial_factor_follows_from_geometry_done_symbolically():
    # Independent library: sympy. A valve face at inclination a meets a floor tilted b; raise the head by dz
    # along the bore and solve how far the valve may move along its axis until the planes touch again.
    a, b, dz, move = sympy.symbols("a b dz move", positive=True)
    normal = sympy.Matrix([sympy.sin(b), sympy.cos(b)])
    axis = sympy.Matrix([sympy.sin(a), sympy.cos(a)])
    lifted = sympy.Matrix([0, dz])
    gained = sympy.solve(normal.dot(lifted - move * axis), move)[0] / dz
    for degrees in ((20, 20), (20, 0), (35, 12)):
        values = {a: math.radians(degrees[0]), b: math.radians(degrees[1])}
        assert axial_factor(*degrees) == pytest.approx(float(gained.subs(values)), rel=1e-12)


def test_a_crank_is_refused_exactly_where_the_linkage_cannot_close():
    # Independent library: numpy on the loop-closure equation l^2 = (r sin a + e)^2 + (h - r cos a)^2, which
    # has a real height h at every crank angle only where l > r + |e|.
    angles = np.radians(np.arange(0, 360, 0.25))
    for rod, offset in ((60.0, 9.0), (58.3, 9.0), (58.1, 9.0), (50.0, 0.0), (49.0, 0.0), (70.0, -9.0)):
        stroke = 98.425
        under_root = rod**2 - (stroke / 2 * np.sin(angles) + offset) ** 2
        turns = bool((under_root > 0).all())
        try:
            engine(stroke_mm=stroke, rod_length_mm=rod, pin_offset_mm=offset)
            taken = True
        except FaultsError:
            taken = False
        assert taken == turns, (rod, offset)


def test_figures_of_the_trade():
    # Common practice, no source: 0.140 in with a 0.060 gasket, and a 0.040 gasket takes 0.020 of it;
    # 0.130 intake and 0.305 exhaust on a new gasket lose its free less its compressed thickness.
    thin = FinalGasket(compressed_mm=thou(40), bore_mm=97.0)
    thick = mockup(gasket_mm=thou(60))
    figure = (
        evaluate(job_with_clay(clay(140), final_gasket=thin, mockups=(thick,))).of_kind(FACE_INTAKE_CHECK)[0].figure
    )
    assert figure.value == pytest.approx(thou(120), abs=1e-9)
    new = mockup(gasket_state=GasketState.SNUGGED, gasket_mm=thou(52))
    read = job_with_clay(clay(130), clay(130, 2), final_gasket=thin, mockups=(new,))
    assert evaluate(read).of_kind(FACE_INTAKE_CHECK)[1].figure.value == pytest.approx(thou(118), abs=1e-9)


def test_compression_ratio_in_closed_form():
    # Closed form: V_s = 501.2 V_c / 50.12 gives 11 to 1 whatever the size; here chamber alone, no deck or dish.
    one = Engine(cylinders=1, bore_mm=100.0, stroke_mm=100.0, rod_length_mm=200.0)
    swept = math.pi / 4 * 100**3 / 1000
    gasket = FinalGasket(compressed_mm=1.0, bore_mm=100.0)
    chamber = swept / 10 - math.pi / 4 * 100**2 / 1000
    flush = job(engine=one, final_gasket=gasket, clay=(), deck=(deck(1, 0),), volumes=volumes(chamber, 0.0))
    assert evaluate(flush).of_kind(RATIO_CHECK)[0].figure.value == pytest.approx(11.0, rel=1e-12)


def test_rungs_that_share_a_doubt_add_as_the_gum_adds_correlated_inputs():
    # GUM 5.2.2, equation (16): u^2 = u1^2 + u2^2 + 2 r u1 u2, by hand for r = 0.5 and r = -0.5.
    first = Correction("read", Value(2.0, 0.3))
    for r, u in ((0.5, math.sqrt(0.37)), (-0.5, math.sqrt(0.13))):
        corrections = (first, Correction("carried", Value(-0.5, 0.4), shared=r * 0.3 * 0.4))
        assert running_figure(corrections).value == pytest.approx(1.5)
        assert running_figure(corrections).u == pytest.approx(u)
        assert math.hypot(*(part.u for part in parts_of(corrections))) == pytest.approx(u)
