"""The short block against published data, closed forms and libraries."""

import math

import numpy as np
import pytest
import scipy.stats
from scipy.optimize import brentq

from mockup.checks.running import budget, stretch_mm, tdc_acceleration
from mockup.context import EvaluationContext
from mockup.engine.running import EXPANSION_PER_K, Material, Running
from mockup.evaluate import evaluate
from mockup.motion.slider_crank import SliderCrank, slider_crank
from mockup.plans.ratio_solver import Unknown, solve_ratio
from mockup.quantity.typed_deck import dial_reading
from mockup.readings.instruments import DEFAULT_INSTRUMENTS
from mockup.readings.tdc import TdcMethod, TdcReading, tdc_figure
from mockup.readings.volumes import VOLUME_U_CC, Known, VolumePart, VolumeReading
from tests.making import deck, engine, job, thou

# Published: F. J. Anscombe, "Graphs in Statistical Analysis", The American Statistician 27 (1973), data set I, here
# in the order of x = 4 to 14: slope 0.5001, standard error 0.1179, mean 7.50 (from memory).
ANSCOMBE_I = (4.26, 5.68, 7.24, 4.82, 6.95, 8.81, 8.04, 8.33, 10.84, 7.58, 9.96)

# Published: GUM, JCGM 100:2008, table 1, 4.4.3: twenty readings, mean 100.145, s = 1.489, u of the mean = 0.333
# (from memory).
GUM_TABLE_1 = (
    96.90, 98.18, 98.25, 98.61, 99.03, 99.49, 99.56, 99.74, 99.89, 100.07, 100.33, 100.42, 100.68, 100.95, 101.11,
    101.20, 101.57, 101.84, 102.36, 102.72,
)  # fmt: skip


def anscombe_plane():
    eleven = engine(cylinders=11, bore_spacing_mm=100.0)
    readings = tuple(deck(at, down / thou(1)) for at, down in enumerate(ANSCOMBE_I, start=1))
    (plane,) = evaluate(job(engine=eleven, deck=readings)).planes
    return plane


def test_the_fitted_deck_has_the_published_slope_and_standard_error():
    plane = anscombe_plane()
    assert plane.mean.value == pytest.approx(7.50, abs=0.005)
    assert plane.run_mm.value / 10 == pytest.approx(0.5001, abs=5e-5)
    assert plane.run_mm.u / 10 == pytest.approx(0.1179, abs=5e-5)


def test_the_fitted_deck_agrees_with_scipys_regression():
    # Independent library: scipy.stats.linregress.
    plane, regressed = anscombe_plane(), scipy.stats.linregress(range(11), ANSCOMBE_I)
    assert plane.per_100_mm.value == pytest.approx(regressed.slope, rel=1e-9)
    assert plane.per_100_mm.u == pytest.approx(regressed.stderr, rel=1e-6)
    line = [regressed.intercept + regressed.slope * at for at in range(11)]
    assert list(plane.fitted_mm.values()) == pytest.approx(line)


def test_several_fills_have_the_published_uncertainty_of_a_mean():
    readings = [VolumeReading(key=str(at), part=VolumePart.CHAMBER, cc=cc) for at, cc in enumerate(GUM_TABLE_1)]
    volume = EvaluationContext(job(volumes=readings)).parts[VolumePart.CHAMBER][1].volume
    assert volume.value == pytest.approx(100.145, abs=5e-4)
    assert math.sqrt(volume.u**2 - VOLUME_U_CC[Known.MEASURED] ** 2) == pytest.approx(0.333, abs=5e-4)


def test_a_piston_filled_down_its_bore_by_a_simulation_of_its_inputs():
    # Independent method: 200,000 draws with numpy, each input uniform over the half-width it is known to.
    draws = np.random.default_rng(7)
    block = engine()

    def uniform(middle, half):
        return draws.uniform(middle - half, middle + half, 200_000)

    bore, depth = uniform(block.bore_mm, 0.02), uniform(7.62, 0.02)
    own = uniform(62.0, 0.3) - math.pi / 4 * bore**2 * depth / 1000
    reading = VolumeReading(key="p", part=VolumePart.PISTON, cc=62.0, depth_mm=7.62).volume(block)
    assert reading.value == pytest.approx(own.mean(), abs=2e-3)
    assert reading.u == pytest.approx(own.std(), rel=0.01)


def test_the_solved_gasket_is_where_a_root_finder_puts_it():
    # Independent library: scipy.optimize.brentq on the ratio written out by hand.
    built = job()
    report = evaluate(built)
    down, bore, stroke = thou(4), built.engine.bore_mm, built.engine.stroke_mm

    def ratio(gasket):
        clearance = 70.0 + 5.0 + math.pi / 4000 * (bore**2 * down + built.final_gasket.bore_mm**2 * gasket)
        return (math.pi / 4000 * bore**2 * stroke + clearance) / clearance

    solved = next(one for one in solve_ratio(report, 1, 9.4) if one.unknown is Unknown.GASKET)
    assert solved.value == pytest.approx(brentq(lambda gasket: ratio(gasket) - 9.4, 0.01, 5.0), rel=1e-9)


# --- TDC -------------------------------------------------------------------------------------------------------------


def test_an_offset_pistons_tdc_correction_agrees_with_scipys_root_of_the_travel():
    # Independent method: the two crank angles at the same drop found by scipy.optimize.brentq on the travel itself.
    # The design notes give 0.01 degree at 5 mm and 0.07 at 25 mm for an ordinary offset.
    crank = slider_crank(engine(pin_offset_mm=1.0))
    for drop in (5.0, 25.0):
        after = brentq(lambda a, drop=drop: float(crank.travel_mm(a)) - drop, 0, 179)
        before = -brentq(lambda a, drop=drop: float(crank.travel_mm(a)) - drop, -179, 0)
        pair = TdcReading(key="t", before_deg=before, after_deg=after, method=TdcMethod.DROP, drop_mm=drop)
        figure = tdc_figure([pair], crank, DEFAULT_INSTRUMENTS)
        assert figure.error_deg.value == pytest.approx(0.0, abs=2e-3)
        assert abs(after - before) / 2 > 0.005


def test_a_needle_hides_more_than_a_degree_as_the_series_says():
    # Closed form: P = r (1 + r/l) t^2 / 2, so 0.01 mm is t = sqrt(2 x 0.01 / (r (1 + r/l))), either way.
    crank = SliderCrank(44.2, 145.0)
    expected = 2 * math.degrees(math.sqrt(2 * 0.01 / (44.2 * (1 + 44.2 / 145.0))))
    assert crank.dwell_deg(0.01) == pytest.approx(expected, rel=1e-4)
    assert crank.dwell_deg(0.01) > 2.0


@pytest.mark.parametrize(
    ("turns", "shown", "backwards", "came_to"), [(0, 14, True, 86), (1, 14, False, 114), (2, 0, True, 200)]
)
def test_a_dial_gone_backwards(turns, shown, backwards, came_to):
    # Common practice, no source: 14 on a hundred-division dial that went backwards is 86.
    assert dial_reading(100, shown, turns, backwards=backwards) == came_to


# --- the running estimate --------------------------------------------------------------------------------------------


def test_growth_is_what_the_handbook_gives_for_a_bar():
    # Handbook (from memory): a steel bar of 1 m grows 1.17 mm over 100 K; cast iron 1.08; cast aluminium 2.15.
    grown = {material: EXPANSION_PER_K[material] * 1000 * 100 for material in Material}
    assert grown[Material.STEEL] == pytest.approx(1.17)
    assert grown[Material.IRON] == pytest.approx(1.08)
    assert grown[Material.ALUMINIUM] == pytest.approx(2.15)


def test_an_aluminium_block_grows_the_few_thou_the_trade_reckons_with():
    # Common practice, no source: a boosted aluminium block grows about 0.004 in hot, crank, rod and piston counted.
    running = Running(compression_height_mm=30.0, block=Material.ALUMINIUM, rpm=0.0, block_rise_k=75.0)
    report = evaluate(job(running=running))
    assert report.budgets[1].total_mm == pytest.approx(thou(4), abs=thou(3))


def test_acceleration_at_tdc_is_the_second_derivative_of_the_travel():
    # Independent method: a central difference of the travel with numpy, in seconds at 6000 rpm.
    for offset in (0.0, 3.0):
        crank = slider_crank(engine(pin_offset_mm=offset))
        step = 1e-2
        p = crank.travel_mm([-step, 0.0, step]) / 1000
        seconds = step / (6000 / 60 * 360)
        assert tdc_acceleration(crank, 6000.0) == pytest.approx((p[0] - 2 * p[1] + p[2]) / seconds**2, rel=1e-5)


def test_a_rod_stretches_by_hookes_law():
    # Closed form: F l / (A E); 1 kg at 20,000 m/s2 is 20 kN; 150 mm of 100 mm2 steel at 205 GPa gives 0.1463 mm.
    crank = SliderCrank(45.0, 150.0)
    rpm = math.sqrt(20_000 / tdc_acceleration(crank, 1.0))
    running = Running(compression_height_mm=40.0, rpm=rpm, reciprocating_g=1000.0, rod_area_mm2=100.0)
    assert stretch_mm(crank, running) == pytest.approx(20_000 * 150 / (100 * 205_000), rel=1e-9)


def test_a_budget_is_the_sum_of_its_terms_and_never_touches_the_cold_figure():
    running = Running(compression_height_mm=44.0, bearings_mm=0.06)
    with_it, without = evaluate(job(running=running)), evaluate(job())
    assert [check.figure for check in with_it.checks] == [check.figure for check in without.checks]
    crank = slider_crank(job().engine)
    found = budget(with_it.deck[1], crank, running)
    height = crank.tdc_height_mm + 44.0 + thou(4)
    thermal = 10.8e-6 * height * 65 - (
        11.7e-6 * crank.radius_mm * 70 + 11.7e-6 * crank.rod_mm * 80 + 19.5e-6 * 44 * 150
    )
    assert found.total_mm == pytest.approx(thermal - stretch_mm(crank, running) - 0.06)
