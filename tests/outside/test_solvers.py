"""The program's root finder and coverage factor against scipy's."""

import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq
from scipy.special import stdtrit

from mockup.quantity.solvers import TWO_SIGMA, coverages, root_between

at = st.floats(-5, 5)
SHAPES = {
    "cubic": lambda x, root: (x - root) * (1 + (x - root) ** 2),
    "flat": lambda x, root: (x - root) ** 5,
    "steep": lambda x, root: np.arctan(1e4 * (x - root)),
    "one-sided": lambda x, root: np.exp(3 * x) - np.exp(3 * root),
    "step": lambda x, root: -1.0 if x < root else 1.0,
}


@pytest.mark.parametrize("name", SHAPES)
@given(root=at, low=st.floats(-12, -5.5), high=st.floats(5.5, 9), xtol=st.sampled_from([1e-12, 1e-9, 1e-3]))
def test_a_root_is_scipys(name, root, low, high, xtol):
    asked = []

    def function(x):
        asked.append(x)
        return float(SHAPES[name](x, root))

    found = root_between(function, low, high, xtol)
    # Fifth powers vanish in floating point long before they are zero.
    assert found == pytest.approx(root, abs=2 * xtol + 1e-12 + 3e-4 * (name == "flat"))
    if name != "flat":
        assert found == pytest.approx(brentq(function, low, high, xtol=1e-12), abs=2 * xtol + 1e-11)
    assert min(asked) >= low
    assert max(asked) <= high


@given(root=at)
def test_an_end_that_is_the_root_is_it_and_ends_alike_are_refused(root):
    assert root_between(lambda x: x - root, root, 9.0, 1e-9) == root
    assert root_between(lambda x: x - root, -9.0, root, 1e-9) == root
    with pytest.raises(ValueError, match="no root"):
        root_between(lambda x: x - root, root + 1, root + 2, 1e-9)


def test_the_coverage_factor_is_scipys_over_its_whole_range():
    freedom = np.concatenate([np.linspace(1, 30, 5000), np.logspace(1.5, 12, 2000)])
    assert coverages(freedom) == pytest.approx(stdtrit(freedom, TWO_SIGMA), rel=1e-9)
    assert coverages(np.inf) == pytest.approx(2.0, abs=1e-9)
    assert coverages(0.2) == coverages(1.0)  # fewer than one is counted as one


def test_judging_a_job_reads_in_none_of_scipys_optimizers_nor_statistics():
    code = (
        "import sys; from launch.check import main; main(['docs/example.job.json']);"
        "print(sorted(name for name in sys.modules if name in ('scipy.optimize', 'scipy.stats', 'scipy.special')))"
    )
    answer = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, env={"PYTHONPATH": "src"}, check=True
    )
    assert answer.stdout.splitlines()[-1] == "[]", answer.stdout[-400:] + answer.stderr
