"""Clay that was not touched, clay between crown and head, and how both are typed."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.checks.head_clay import CROWN_LIMIT
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.gasket import FinalGasket
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, Limit, State, judge
from mockup.quantity.typed import LengthError
from mockup.quantity.typed_train import parse_clay
from mockup.quantity.value import Unit, Value
from mockup.readings.clay import HeadReading, HeadSpot
from tests.making import clay, job, thou


def test_clay_that_was_not_touched_is_a_lower_bound():
    over = replace(clay(200), touched=False)
    check = evaluate(job(clay=(over,))).of_kind(FACE_INTAKE_CHECK)[0]
    assert (check.governing.bound, check.state) == (Bound.AT_LEAST, State.CLEAR)
    thin = replace(clay(60), touched=False)
    assert evaluate(job(clay=(thin,))).of_kind(FACE_INTAKE_CHECK)[0].state is State.NOT_MEASURED
    both = evaluate(job(clay=(over, clay(90)))).of_kind(FACE_INTAKE_CHECK)[0]
    assert (both.governing.bound, both.figure.value) == (Bound.EXACT, pytest.approx(thou(90)))


@given(st.floats(0, 10), st.floats(0, 1))
def test_a_lower_bound_is_never_short_and_an_upper_one_never_clear(value, u):
    limit = Limit(low=2.0)
    assert judge(Value(value, u), limit, Bound.AT_LEAST) in (State.CLEAR, State.NOT_MEASURED)
    assert judge(Value(value, u), limit, Bound.AT_MOST) in (State.SHORT, State.NOT_MEASURED)


def test_clay_at_the_pads_plug_and_dome_is_carried_whole():
    pad = HeadReading(key="p", mockup="A", cylinder=1, spot=HeadSpot.PAD, thickness_mm=thou(40))
    plug = HeadReading(key="q", mockup="A", cylinder=1, spot=HeadSpot.PLUG, thickness_mm=thou(90))
    gasket = FinalGasket(compressed_mm=thou(41), bore_mm=97.0)
    report = evaluate(job(heads=(pad, plug), final_gasket=gasket))
    found = {check.label: check for check in report.checks}
    assert found["Quench 1"].others[0].figure.value == pytest.approx(thou(45))
    assert found["Plug 1"].state is State.NO_MINIMUM
    assert CROWN_LIMIT.is_length


@pytest.mark.parametrize(
    ("text", "thickness", "touched", "spot"),
    [
        ("96", 96, True, ""),
        ("96 wall", 96, True, "wall"),
        ("96 inner", 96, True, "inner"),
        ("96,5", 96.5, True, ""),
        ("over 200", 200, False, ""),
        (">200 plug", 200, False, "plug"),
    ],
)
def test_clay_is_typed_with_where_it_was_taken_or_that_it_was_not_touched(text, thickness, touched, spot):
    typed = parse_clay(text, Unit.INCH)
    assert (typed.thickness_mm, typed.touched, typed.spot) == (pytest.approx(thou(thickness)), touched, spot)


@pytest.mark.parametrize("text", ["", "wall", "96 moon", "over", "96,5,1", "-5"])
def test_clay_that_is_no_thickness_is_refused(text):
    with pytest.raises(LengthError):
        parse_clay(text, Unit.INCH)
