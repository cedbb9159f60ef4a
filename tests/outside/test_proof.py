"""U holds on virtual engines: a small fixed run of docs/proof.md's rows.

Independent method: the engines, their lobes and their closest points are found by vectors, a linkage closed numerically
and a fine grid (``virtual``), never by the core's formulas, and what the hand's noise is nobody tells the program.
"""

from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import binom

from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.fit.few_readings import few_readings
from mockup.limits.judge import State
from mockup.readings import instruments
from virtual.crank import crank_of
from virtual.hand import replace_lift
from virtual.prove import run_batch, shown, table_line
from virtual.rows import ROWS
from virtual.trials import Outcome, first_face, indicator, on_the_bench

ENGINES = 120


@pytest.mark.parametrize("at", range(len(ROWS)), ids=[row.words for row in ROWS])
def test_the_truth_lies_within_u_as_often_as_promised(at):
    outcomes = run_batch(at, tuple(range(ENGINES)))
    found = shown(ROWS[at], outcomes)
    # Two valves of one engine share its errors: as many independent figures as engines. One chance in a thousand.
    least = binom.ppf(0.001, ENGINES, ROWS[at].holds / 100) / ENGINES * 100
    assert found.holds >= least, table_line(found)
    # Beyond three U lies almost nothing: one engine in two hundred, by the same chance.
    assert found.beyond_three <= binom.ppf(0.999, ENGINES, 0.002) / ENGINES * 100, table_line(found)
    assert found.false_clear <= 2.5 + 100 * 3 * np.sqrt(0.025 * 0.975 / ENGINES), table_line(found)
    assert abs(found.mean) < found.median_u, table_line(found)


def test_the_proof_would_catch_a_noise_that_is_taken_for_smaller_than_it_is(monkeypatch):
    # A negative control: residuals correct nothing, and the hand is taken for twice as steady as the bench book says.
    from mockup.fit import scatter
    from mockup.quantity.value import Value

    def steady(sigma, _squares, _freedom):
        return Value(0.0, sigma / 2)

    monkeypatch.setattr(scatter, "noise_after", steady)
    outcomes = [one for seed in range(60) for one in indicator(np.random.default_rng(seed), 1.0)]
    assert np.mean([abs(one.error) <= one.expanded for one in outcomes]) < 0.75


def test_the_advice_is_followed_in_few_readings():
    found = shown(ROWS[0], run_batch(0, tuple(range(40))))
    assert found.readings <= 6
    assert found.most < 1.2


def test_a_truth_exactly_at_the_minimum_is_seldom_called_clear():
    row = next(at for at, row in enumerate(ROWS) if "exactly at the minimum" in row.words)
    outcomes = run_batch(row, tuple(range(100)))
    # The limit is the truth itself: whatever is called clear is called so wrongly.
    clear = sum(one.state is State.CLEAR for one in outcomes)
    assert clear <= binom.ppf(0.999, len(outcomes), 0.025)


def test_valves_read_at_firing_tdc_give_no_figure_whatever_the_engine():
    for seed in range(60):
        bench = on_the_bench(np.random.default_rng(seed))
        bench.engine = replace(bench.engine, valves={at: replace_lift(v) for at, v in bench.engine.valves.items()})
        for side in Side:
            for at in (-5.0, 0.0, 5.0, 10.0):
                bench.sweep(1, side, at)
        report = evaluate(bench.job())
        assert [first_face(report, side).figure for side in Side] == [None, None]


def test_a_virtual_crank_makes_its_stroke_whatever_its_offset():
    for stroke, rod, offset in ((80.0, 140.0, 0.0), (80.0, 140.0, 1.5), (95.0, 150.0, -1.2)):
        crank = crank_of(stroke, rod, offset)
        down = crank.down_mm(np.linspace(-360, 360, 7201))
        assert down.min() == pytest.approx(0.0, abs=1e-6)
        assert down.max() == pytest.approx(stroke, abs=1e-4)


def test_the_same_seed_is_the_same_engine():
    first, again = (run_batch(3, (7,)) for _ in range(2))
    assert first == again
    assert all(isinstance(one, Outcome) for one in first)


def test_one_reading_without_a_lobe_is_as_wide_as_its_priors():
    # Independent method: a million draws of the closest angle and the curvature, numpy, seeded.
    from mockup.quantity.value import Value

    random = np.random.default_rng(5)
    angle, bend = random.normal(8, 6, 1_000_000), random.normal(0.6, 0.25, 1_000_000) * 0.0254
    below = 0.5 * np.clip(bend, 0.0005, None) * (10.0 - angle) ** 2
    found = few_readings(np.array([10.0]), np.array([10.922]), Value(0.0, 0.01, 4.0), 0.0, Side.INTAKE)
    assert found.minimum.value == pytest.approx(10.922 - below.mean(), abs=0.01)
    assert found.minimum.u == pytest.approx(np.hypot(below.std(), 0.01), rel=0.04)
    assert instruments.PRIOR_READINGS == 4
