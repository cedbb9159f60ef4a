"""Do the pushrods in hand fit: the trade's example, windows, typing."""

from dataclasses import replace

import pytest

from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.engine.pushrods import Lifter, PushrodChoice
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.plans.pushrods_in_hand import parse_lengths, pushrods_in_hand
from mockup.quantity.typed import LengthError
from mockup.quantity.value import Unit
from mockup.readings.pushrods import PushrodReading
from tests.making import job, thou
from tests.making_readings import PLACE

IN = 25.4
TRIED = PushrodReading(key="rod", mockup="A", place=PLACE, closed_mm=6.8 * IN, turns=11.5)
WINDOW = PushrodChoice(low_mm=thou(20), high_mm=thou(80), aim_mm=thou(50))


def gives(*lengths_in, **changes):
    report = evaluate(job(pushrods=(TRIED,), **changes))
    ((place, found),) = pushrods_in_hand(report, [one * IN for one in lengths_in])
    assert place == PLACE
    return found


def test_each_length_gives_its_preload():
    # 6.800 + 11.5 x 0.050 = 7.375; 7.400 gives 0.025 of preload, 7.450 gives 0.075: common practice, no source.
    short, long = gives(7.400, 7.450)
    assert (short.left.value, long.left.value) == pytest.approx((thou(25), thou(75)))
    assert short.left.u > 0
    assert short.state is None


def test_they_are_judged_by_the_window_chosen_with_u_counted():
    states = [one.state for one in gives(7.350, 7.400, 7.425, 7.500, pushrod_choice=WINDOW)]
    assert states == [State.SHORT, State.CLOSE, State.CLEAR, State.OVER]


def test_a_solid_lifter_leaves_lash_at_the_valve_by_the_ratio():
    solid = PushrodChoice(lifter=Lifter.SOLID, low_mm=thou(10), high_mm=thou(30), aim_mm=thou(16))
    (found,) = gives(7.365, pushrod_choice=solid)
    ratio = job().engine.ratio
    assert found.left.value == pytest.approx(thou(10) * ratio)


@pytest.mark.parametrize("lifter", [*Lifter])
@pytest.mark.parametrize("length_in", [7.355, 7.365, 7.395, 7.425, 7.460])
def test_a_length_in_hand_is_judged_as_the_chosen_one(lifter, length_in):
    window = PushrodChoice(lifter=lifter, low_mm=thou(10), high_mm=thou(80), aim_mm=thou(40))
    (found,) = gives(length_in, pushrod_choice=window)
    chosen = replace(window, chosen_mm=length_in * IN)
    report = evaluate(job(pushrods=(TRIED,), pushrod_choice=chosen))
    (check,) = (one for one in report.of_kind(PUSHROD_CHECK) if one.figure)
    assert found.left.value == pytest.approx(check.figure.value)
    assert (found.left.expanded, found.state) == (pytest.approx(check.figure.expanded), check.state)


@pytest.mark.parametrize(
    ("text", "unit", "lengths"),
    [
        ("7.400 7.450", Unit.INCH, (7.4 * IN, 7.45 * IN)),
        ("7.400, 7.450;7.5", Unit.INCH, (7.4 * IN, 7.45 * IN, 7.5 * IN)),
        ("187.3 mm; 7.4 in", Unit.INCH, (187.3, 7.4 * IN)),
        ("187,3; 188", Unit.MILLIMETRE, (187.3, 188.0)),
        ("", Unit.INCH, ()),
    ],
)
def test_lengths_are_typed_as_a_list(text, unit, lengths):
    assert parse_lengths(text, unit) == pytest.approx(lengths)


@pytest.mark.parametrize("text", ["long", "7.4 and 7.5", "0.4", "99", " ".join(["7.4"] * 9)])
def test_what_is_no_pushrod_is_refused(text):
    with pytest.raises(LengthError):
        parse_lengths(text, Unit.INCH)
