"""Degrees of freedom, noise, conditioned lobes and the damped fit against scipy."""

import numpy as np
import pytest
import scipy.linalg
from scipy import stats
from scipy.optimize import least_squares

from mockup.engine.cam import Duration, LobeCard
from mockup.engine.valves import Side
from mockup.fit.valve_model import Sweep, with_lobe
from mockup.motion.lobes import TableLobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.uncertain import CENTRED_U_DEG, PRINTED_U_DEG, PRINTED_U_MM, CardLift, _shapes, uncertain_lobe
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.solvers import coverage, coverages, f_exceeds, student
from mockup.quantity.value import Value
from mockup.readings.instruments import PRIOR_READINGS, noise_after
from tests.fitting import closest_approach
from tests.making import thou
from tests.making_readings import table

CRANK = SliderCrank(49.2, 172.7)
CARD = LobeCard(lift_mm=thou(310), durations=(Duration(272.0, thou(6)), Duration(218.0, thou(50))))
THREE = LobeCard(
    lift_mm=thou(310),
    durations=(Duration(272.0, thou(6)), Duration(218.0, thou(50)), Duration(138.0, thou(200))),
    tdc_lift_mm=thou(62),
)


# --- Student's t -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("freedom", [3.0, 4.0, 7.0, 12.5, 50.0, 1000.0, np.inf])
def test_the_coverage_factor_is_students(freedom):
    # Independent library: scipy.stats.t, at the probability of two standard deviations. JCGM 100:2008, G.3.
    assert coverage(freedom) == pytest.approx(stats.t.ppf(stats.norm.cdf(2.0), freedom), rel=1e-6)
    assert student(freedom, 0.975) == pytest.approx(stats.t.ppf(0.975, freedom), rel=1e-9)


def test_coverage_factors_of_the_printed_table_are_met():
    # Published: JCGM 100:2008, table G.2, column 95.45 %, from memory: t of 4, 10 and 50 degrees of freedom.
    assert coverages([4, 10, 50]).round(2).tolist() == [2.87, 2.28, 2.05]


def test_the_f_test_is_fishers():
    # Independent library: scipy.stats.f.
    for ratio, freedom, other in ((1.0, 3, 4), (2.5, 2, 4), (6.0, 9, 4)):
        assert f_exceeds(ratio, freedom, other) == pytest.approx(stats.f.sf(ratio, freedom, other), rel=1e-9)


@pytest.mark.parametrize(("freedom", "ratio"), [(1, 0.2), (3, 0.7), (8, 1.0), (20, 0.5)])
def test_the_noise_after_readings_is_the_posterior_scale(freedom, ratio):
    # Independent library: scipy.stats. The scaled inverse chi squared prior of a normal's variance, worth so many
    # readings, times the likelihood of the squares, integrated over a grid: the density of a further reading is
    # Student's t with the scale and the degrees of freedom said (Gelman and others, Bayesian Data Analysis, 2.6, 3.2).
    sigma, squares = 0.4, ratio * freedom * 0.4**2
    found = noise_after(sigma, squares, freedom)
    variance = np.geomspace(1e-4, 1e3, 200_001)
    prior = stats.invgamma.logpdf(variance, PRIOR_READINGS / 2, scale=PRIOR_READINGS * sigma**2 / 2)
    density = np.exp(prior - freedom / 2 * np.log(variance) - squares / (2 * variance))
    density /= np.trapezoid(density, variance)
    for reading in (0.0, 0.5, 1.2):
        predicted = np.trapezoid(density * stats.norm.pdf(reading, 0, np.sqrt(variance)), variance)
        assert predicted == pytest.approx(stats.t.pdf(reading, found.freedom, 0, found.u), rel=1e-4)


def test_the_freedom_of_a_sum_is_welch_and_satterthwaites():
    # Published: JCGM 100:2008, H.1.6, from memory: a gauge of 50 mm, u = 32 nm with 16.7 effective degrees of freedom.
    parts = [Value(0.0, 25.0, 18.0), Value(0.0, 9.7, 25.6), Value(0.0, 2.9, 50.0), Value(0.0, 16.6, 2.0)]
    whole = sum(parts[1:], parts[0])
    assert whole.u == pytest.approx(32, abs=0.5)
    assert whole.freedom == pytest.approx(16.7, abs=0.1)


# --- a card is an uncertain lobe -------------------------------------------------------------------------------------


@pytest.mark.parametrize("card", [CARD, THREE])
def test_a_card_narrows_its_lobe_as_a_gaussian_is_conditioned(card):
    # Independent method: the joint covariance of modes and stated values, and its Schur complement by scipy.linalg
    # (Rasmussen and Williams, Gaussian Processes, A.2), where the program adds up precisions.
    told = (CardLift(-108.0, card.tdc_lift_mm, 0.6),) if card.tdc_lift_mm else ()
    lobe = uncertain_lobe(card, told)
    _, mean, modes = _shapes("one" if (lobe.smooth.a, lobe.smooth.b) == (2.6, 3.2) else "two")
    lift = lobe.lift_max_mm

    def at(x):
        return lift * np.array([np.interp(x, lobe.x_deg, one) for one in modes.T]), lift * np.interp(
            x, lobe.x_deg, mean
        )

    def slope(x):
        here = lobe.smooth.lift_mm([x - 0.05, x + 0.05])
        return max(abs(here[1] - here[0]) / 0.1, 1e-4)

    rows, wanted, u = [], [], []
    for one in card.durations:
        (low, low_mean), (high, high_mean) = at(-one.deg / 2), at(one.deg / 2)
        rows.append((low + high) / 2)
        wanted.append(one.at_mm - float(lobe.smooth.lift_mm(one.deg / 2)) - (low_mean + high_mean) / 2)
        u.append(max(slope(-one.deg / 2), slope(one.deg / 2)) * PRINTED_U_DEG / 2 + 0.01)
    (low, low_mean), (high, high_mean) = at(-lobe.half_deg), at(lobe.half_deg)
    rise, fall = slope(-lobe.half_deg), slope(lobe.half_deg)
    rows.append((high / fall - low / rise) / 2)
    wanted.append(-(high_mean / fall - low_mean / rise) / 2)
    u.append(CENTRED_U_DEG)
    for one in told:
        here, here_mean = at(one.x_deg)
        rows.append(here)
        wanted.append(one.lift_mm - float(lobe.smooth.lift_mm(one.x_deg)) - here_mean)
        u.append(np.hypot(PRINTED_U_MM, slope(one.x_deg) * one.u_deg))
    rows, wanted, u = np.array(rows), np.array(wanted), np.array(u)
    stated = rows @ rows.T + np.diag(u**2)
    settled = rows.T @ scipy.linalg.solve(stated, wanted)
    left = np.eye(rows.shape[1]) - rows.T @ scipy.linalg.solve(stated, rows)
    assert lobe.departure_mm == pytest.approx(lift * (mean + modes @ settled), abs=1e-9)
    spread = lift**2 * np.einsum("ij,jk,ik->i", modes, left, modes)
    assert (lobe.modes_table_mm**2).sum(axis=1) == pytest.approx(spread, abs=1e-9)


def test_every_word_of_a_card_narrows_its_lobe_and_none_widens_it():
    # At overlap TDC, 106 degrees from the middle: two durations, a third, the lift there.
    def spread(card, told=()):
        return float(np.sqrt((uncertain_lobe(card, told).modes_mm(np.array([-106.0])) ** 2).sum()))

    third = LobeCard(lift_mm=CARD.lift_mm, durations=THREE.durations)
    plain, more, told = spread(CARD), spread(third), spread(CARD, (CardLift(-106.0, thou(62), 0.3),))
    assert more <= plain + 1e-12
    assert told < 0.5 * plain


# --- the damped fit --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("count", [1, 3, 7])
@pytest.mark.parametrize("lash", [0.0, 0.35])
def test_the_damped_fit_with_a_card_is_scipys(count, lash):
    # Independent library: scipy.optimize.least_squares on the same weighted rows, slopes by differences.
    random = np.random.default_rng(count)
    train = ValveTrain(side=Side.INTAKE, lobe=uncertain_lobe(CARD), centreline_deg=106.0, ratio=1.5, lash_mm=lash)
    t = np.linspace(0.0, 15.0, count)
    c = 2.2 + CRANK.travel_mm(t) - train.lift_mm(t + 0.8) + random.normal(0, 0.012, count)
    sweep = Sweep(t, c, np.full(count, 0.011), 1.0, drop=Value(2.21, 0.02))
    model = with_lobe(sweep, CRANK, train)
    found = model.solve(sweep.u_mm, None)
    size = len(found.theta)
    beforehand = np.concatenate([[sweep.wheel_u_deg, sweep.phase_u_deg], np.ones(size - 3)])

    def rows(theta):
        at = t - theta[1]
        lift = train.open_lift_mm(at - theta[2], theta[3:])
        got = theta[0] + CRANK.travel_mm(at) - lift
        return np.concatenate([(c - got) / sweep.u_mm, theta[1:] / beforehand, [(2.21 - theta[0]) / 0.02]])

    start = np.zeros(size)
    start[0] = 2.0
    scipys = least_squares(rows, start, method="lm", xtol=1e-14, ftol=1e-14, gtol=1e-14)
    assert found.converged
    assert found.theta == pytest.approx(scipys.x, abs=2e-3)
    assert float((rows(found.theta) ** 2).sum()) == pytest.approx(2 * scipys.cost, rel=1e-5, abs=1e-7)
    covariance = scipy.linalg.inv(scipys.jac.T @ scipys.jac)
    assert np.sqrt(np.diag(found.covariance)) == pytest.approx(np.sqrt(np.diag(covariance)), rel=0.02)


def test_lash_left_in_with_a_measured_lobe_is_part_of_the_fit():
    # The readings of an independent check, at -15 to +5 with 0.35 mm of lash: the truth of that engine is 1.535 mm.
    lobe = TableLobe(table(lift=8.0))
    t = np.array([-15.0, -10.0, -5.0, 0.0, 5.0])
    for lash in (0.0, 0.1, 0.35):
        train = ValveTrain(side=Side.EXHAUST, lobe=lobe, centreline_deg=-106.0, ratio=1.5, lash_mm=lash)
        truth = 3.0 + CRANK.travel_mm(np.linspace(-40, 40, 8001)) - train.lift_mm(np.linspace(-40, 40, 8001))
        c = 3.0 + CRANK.travel_mm(t) - train.lift_mm(t)
        found = closest_approach(Sweep(t, c, np.full(5, 0.01), 1.0, side=Side.EXHAUST), CRANK, train)
        assert not found.doubtful
        assert found.minimum.value == pytest.approx(truth.min(), abs=0.005)


def test_a_valve_lifts_nothing_until_its_lash_is_taken_up():
    # By definition of ratio and lash: lift = max(ratio x lobe - lash, 0), with nothing of any open mode.
    lobe = uncertain_lobe(CARD)
    train = ValveTrain(side=Side.INTAKE, lobe=lobe, centreline_deg=106.0, ratio=1.6, lash_mm=0.4)
    at = np.linspace(-60, 280, 341)
    by_hand = np.maximum(1.6 * lobe.lift_mm(at - 106.0) - 0.4, 0.0)
    assert train.open_lift_mm(at, np.zeros(lobe.modes_mm(at).shape[1])) == pytest.approx(by_hand, abs=1e-9)
    assert train.lift_mm(at) == pytest.approx(by_hand, abs=1e-9)
    assert (by_hand.min(), train.lift_max_mm) == (0.0, pytest.approx(1.6 * lobe.lift_max_mm - 0.4))


@pytest.mark.parametrize("at_mm", [0.3, 1.27, 3.0])
def test_the_flanks_of_a_cards_lobe_lie_where_it_has_that_lift(at_mm):
    lobe = uncertain_lobe(CARD)
    opens, closes = lobe.likely_flanks_deg(at_mm)
    assert opens < 0 < closes
    assert lobe.lift_mm(np.array([opens, closes])) == pytest.approx([at_mm, at_mm], abs=2e-4)
