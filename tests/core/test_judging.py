"""The four states, windows, bounds and daylight."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.limits.judge import Bound, Limit, State, daylight, judge
from mockup.quantity.value import Value

MINIMUM = Limit(low=2.0)
WINDOW = Limit(low=0.9, high=1.2)


@pytest.mark.parametrize(
    ("figure", "limit", "bound", "state"),
    [
        (Value(2.2, 0.1), MINIMUM, Bound.EXACT, State.CLEAR),
        (Value(2.19, 0.1), MINIMUM, Bound.EXACT, State.CLOSE),
        (Value(1.81, 0.1), MINIMUM, Bound.EXACT, State.CLOSE),
        (Value(1.79, 0.1), MINIMUM, Bound.EXACT, State.SHORT),
        (None, MINIMUM, Bound.EXACT, State.NOT_MEASURED),
        (Value(9.0), Limit(), Bound.EXACT, State.NO_MINIMUM),
        (Value(9.0, 0.1), MINIMUM, Bound.AT_MOST, State.NOT_MEASURED),
        (Value(1.0, 0.1), MINIMUM, Bound.AT_MOST, State.SHORT),
        (Value(1.0, 0.05), WINDOW, Bound.EXACT, State.CLEAR),
        (Value(1.15, 0.05), WINDOW, Bound.EXACT, State.CLOSE),
        (Value(1.31, 0.05), WINDOW, Bound.EXACT, State.OVER),
        (Value(0.79, 0.05), WINDOW, Bound.EXACT, State.SHORT),
        (Value(1.31, 0.05), Limit(high=1.2), Bound.EXACT, State.OVER),
    ],
)
def test_a_figure_is_judged_with_its_uncertainty(figure, limit, bound, state):
    assert judge(figure, limit, bound) is state


def test_binary_fractions_do_not_make_a_short():
    assert 0.103 - 0.003 < 0.1
    assert judge(Value(0.103 - 0.003), Limit(low=0.1)) is State.CLEAR


def test_daylight_is_what_is_left_and_in_a_window_the_nearer_side():
    assert daylight(Value(2.5), MINIMUM) == pytest.approx(0.5)
    assert daylight(Value(1.15), WINDOW) == pytest.approx(0.05)
    assert daylight(Value(1.3), WINDOW) == pytest.approx(-0.1)
    assert daylight(None, MINIMUM) is None
    assert daylight(Value(1.0), Limit()) is None


values = st.builds(Value, st.floats(0, 5), st.floats(0, 0.5))


@given(values, st.floats(0, 5))
def test_clear_means_even_the_worst_of_the_band_holds(figure, low):
    state = judge(figure, Limit(low=low))
    assert (state is State.CLEAR) == (figure.value - figure.expanded >= low - 1e-6)
    assert state in (State.CLEAR, State.CLOSE, State.SHORT)


@given(values, st.floats(0, 5), st.floats(0.001, 0.5))
def test_knowing_it_less_surely_never_makes_it_clear(figure, low, more):
    limit = Limit(low=low)
    if judge(figure, limit) is not State.CLEAR:
        assert judge(Value(figure.value, figure.u + more), limit) is not State.CLEAR
