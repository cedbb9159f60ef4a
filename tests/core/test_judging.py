"""The four states, windows, bounds and margin."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.checks.check import Check, Finding
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.weigh import weigh
from mockup.limits.judge import Bound, Limit, State, judge, margin
from mockup.limits.schools import READY_MADE
from mockup.limits.sign_off import SignOff
from mockup.quantity.value import Value
from mockup.report import worst

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
        (Value(0.9), WINDOW, Bound.EXACT, State.CLEAR),
        (Value(1.2), WINDOW, Bound.EXACT, State.CLEAR),
        (Value(1.201), WINDOW, Bound.EXACT, State.OVER),
        (Value(0.899), WINDOW, Bound.EXACT, State.SHORT),
        (Value(1.0), WINDOW, Bound.AT_LEAST, State.NOT_MEASURED),
        (Value(1.0, 0.1), MINIMUM, Bound.ABOUT, State.SHORT),
        (Value(9.0, 0.1), MINIMUM, Bound.ABOUT, State.NOT_MEASURED),
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


def test_margin_is_what_is_left_and_in_a_window_the_nearer_side():
    assert margin(Value(2.5), MINIMUM) == pytest.approx(0.5)
    assert margin(Value(1.15), WINDOW) == pytest.approx(0.05)
    assert margin(Value(1.3), WINDOW) == pytest.approx(-0.1)
    assert margin(None, MINIMUM) is None
    assert margin(Value(1.0), Limit()) is None


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


def check_of(figure, limit, label="", bound=Bound.EXACT):
    governing = None if figure is None else Finding(figure=figure, bound=bound, method="by hand")
    return Check(kind=QUENCH_CHECK, cylinder=1, label=label, limit=limit, governing=governing)


def test_the_worst_check_is_the_worst_off_and_of_equals_the_one_with_the_least_margin():
    clear, clearer = (check_of(Value(low), MINIMUM, str(low)) for low in (2.4, 2.9))
    close = check_of(Value(2.05, 0.1), MINIMUM, "close")
    short, shorter = (check_of(Value(low), MINIMUM, str(low)) for low in (1.9, 1.2))
    over = check_of(Value(1.5), WINDOW, "over")
    untouched = check_of(Value(0.5), MINIMUM, "untouched", Bound.AT_LEAST)
    unread, free = check_of(None, MINIMUM, "unread"), check_of(Value(0.1), Limit(), "no minimum")
    in_order = [shorter, short, over, close, untouched, clear, clearer, free, unread]
    for at, one in enumerate(in_order):
        assert worst(in_order[at:]) is one
        assert worst(list(reversed(in_order[at:]))) is one


@pytest.mark.parametrize(
    ("findings", "governs"),
    [
        # A slip of clay on which a running spring reads short is short, whatever untouched clay beside it says.
        (((1.5, Bound.AT_MOST), (2.6, Bound.AT_LEAST)), 0),
        # What may be nearer than it reads says nothing against clay that was not touched.
        (((2.3, Bound.AT_MOST), (2.6, Bound.AT_LEAST)), 1),
        # Of lower bounds the highest says most; of upper ones and of sound figures the smallest.
        (((2.2, Bound.AT_LEAST), (2.6, Bound.AT_LEAST)), 1),
        (((2.2, Bound.AT_MOST), (2.6, Bound.AT_MOST)), 0),
        (((2.6, Bound.EXACT), (2.2, Bound.EXACT)), 1),
        # A sound figure stands before a bound, unless the bound is surely short.
        (((2.2, Bound.EXACT), (2.1, Bound.AT_MOST), (2.9, Bound.AT_LEAST)), 0),
        (((2.2, Bound.EXACT), (1.5, Bound.AT_MOST)), 1),
        # Of the same figure the less sure one governs: nothing is lost by it but confidence.
        (((2.4, Bound.EXACT, 0.01), (2.4, Bound.EXACT, 0.05)), 1),
        ((None, (2.4, Bound.AT_MOST)), 1),
    ],
)
def test_what_governs_of_several_findings_of_one_place(findings, governs):
    found = [
        Finding(figure=None, method="by hand")
        if one is None
        else Finding(figure=Value(one[0], *one[2:]), bound=one[1], method="by hand")
        for one in findings
    ]
    for order in (found, found[::-1]):
        first, others = weigh(order, READY_MADE["street"], MINIMUM)
        assert first is found[governs]
        assert len(others) == len(found) - 1
        assert first not in others


@pytest.mark.parametrize(
    ("signed", "now", "holds"),
    [(-0.1, -0.1, True), (-0.1, -0.11, False), (None, None, True), (None, -0.1, False), (-0.1, None, False)],
)
def test_a_signature_holds_for_the_margin_it_was_given_for(signed, now, holds):
    one = SignOff(key="s", check="Intake 1", state=State.SHORT, margin=signed, reason="the maker says so")
    assert one.holds_for(State.SHORT, now) is holds
    assert not one.holds_for(State.CLOSE, now)
