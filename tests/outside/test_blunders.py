"""Mistakes at the bench on virtual engines: a small fixed run of docs/proof.md's rows.

Independent method: what is true of an engine comes from ``virtual``, never from the core's formulas.
"""

import numpy as np
import pytest
from scipy.stats import binom

from launch.proof_page import arithmetic, made_by
from mockup.evaluate import evaluate
from virtual.blunder_rows import BLUNDERS, plain, with_card, with_table
from virtual.prove_blunders import FALSELY_CLEAR, SELDOM, run_batch, shown, table_line

ENGINES = 16
TRIED = [(at, count) for at, blunder in enumerate(BLUNDERS) for count in blunder.counts if count in (1, 3)]


@pytest.mark.parametrize(("at", "count"), TRIED, ids=[f"{BLUNDERS[at].words}, {count}" for at, count in TRIED])
def test_a_mistake_is_noticed_and_never_called_clear(at, count):
    blunder = BLUNDERS[at]
    found = shown(blunder, count, run_batch(at, count, tuple(range(ENGINES))))
    if not blunder.seen:
        # No reading shows it: here it is only held that the trial really makes the mistake.
        assert found.matters + found.moved + (count == 1) > 0
        return
    assert found.falsely_clear <= 100 * binom.ppf(0.999, ENGINES, FALSELY_CLEAR / 100) / ENGINES, table_line(found)
    mattered = round(ENGINES * found.matters / 100)
    if found.matters >= SELDOM:
        least = binom.ppf(0.001, mattered, blunder.noticed / 100) / mattered
        assert found.noticed >= 100 * least, table_line(found)


@pytest.mark.parametrize("scene", [plain, with_card, with_table])
def test_an_honest_bench_is_seldom_asked_anything(scene):
    asked = [
        question.text
        for seed in range(24)
        for count in (2, 5)
        for question in evaluate(scene(np.random.default_rng([8, seed]), count).honest).questions
    ]
    assert len(asked) <= binom.ppf(0.999, 48, 0.03), asked


def test_the_trial_sees_a_program_that_believes_everything(monkeypatch):
    # A negative control: without sisters compared and without TDC told apart, mistakes are called clear.
    monkeypatch.setattr("mockup.advice.contradictions._sisters", lambda *_: iter(()))
    row = next(at for at, one in enumerate(BLUNDERS) if one.words.startswith("a turn of the dial too many at one"))
    assert shown(BLUNDERS[row], 3, run_batch(row, 3, tuple(range(ENGINES)))).falsely_clear > 50
    monkeypatch.setattr("mockup.checks.sweeps._unsaid", lambda *_: iter(()))
    row = next(at for at, one in enumerate(BLUNDERS) if one.words.startswith("firing TDC, overlap method not stated"))
    assert shown(BLUNDERS[row], 1, run_batch(row, 1, tuple(range(ENGINES)))).falsely_clear > 50


@pytest.mark.parametrize("name", ["rows", "blunders"])
def test_the_tables_on_the_page_are_of_this_arithmetic(name):
    more = " --blunders" if name == "blunders" else ""
    assert made_by(name) == arithmetic(), f"docs/proof.md is of another arithmetic: ./mole prove{more} --write"
