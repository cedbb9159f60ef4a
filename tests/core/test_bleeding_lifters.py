"""Ordinary lifters under a light touch: the travel of the plunger bounds what they hide."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.checks.check import Trust
from mockup.checks.valve_gap import VALVE_GAP_CHECK
from mockup.checks.valves import FACE_INTAKE_CHECK, RADIAL_CHECK
from mockup.engine.mockup import Lifters, Springs
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, State
from mockup.readings.clay import Gap
from mockup.readings.valve_gap import ValveGapReading
from tests.making import clay, engine, job, mockup, thou
from tests.making_readings import SWEPT

RATIO = 1.5
LIGHT = mockup(lifters=Lifters.UNBLOCKED, springs=Springs.CHECKING, plunger_mm=thou(40))
TRAIN = {"engine": engine(rocker_ratio=RATIO), "cam_card": None}


def intake(*readings, mocked=LIGHT, **changes):
    made = job(**TRAIN | {"clay": readings, "mockups": (mocked,)} | changes)
    return evaluate(made).of_kind(FACE_INTAKE_CHECK)[0]


def test_the_travel_of_the_plunger_at_the_valve_is_taken_off_and_it_is_at_least_that():
    found = intake(clay(150))
    assert found.figure.value == pytest.approx(thou(150 - 40 * RATIO))
    assert (found.governing.bound, found.governing.trust) == (Bound.AT_LEAST, Trust.SOUND)
    assert found.state is State.CLEAR
    assert any("can hide at most" in words for words in found.governing.cautions)
    assert intake(clay(120)).state is State.NOT_MEASURED, "a bound below the minimum proves nothing"


@given(st.floats(70, 300), st.floats(4, 300), st.floats(0, 1))
def test_whatever_the_lifter_hid_up_to_its_travel_the_truth_is_not_less(read, travel, share):
    mocked = replace(LIGHT, plunger_mm=thou(travel))
    found = intake(clay(read), mocked=mocked)
    true_mm = thou(read) - share * thou(travel) * RATIO
    if found.figure is not None:
        assert found.figure.value <= true_mm + 1e-9


@pytest.mark.parametrize(
    "mocked",
    [
        replace(LIGHT, plunger_mm=None),
        replace(LIGHT, springs=Springs.RUNNING),
        replace(LIGHT, springs=Springs.NOT_STATED),
        replace(LIGHT, lifters=Lifters.NOT_STATED),
    ],
)
def test_without_the_travel_or_a_light_touch_it_proves_nothing_as_before(mocked):
    found = intake(clay(150), mocked=mocked)
    assert found.governing.bound is Bound.AT_MOST
    assert found.state is not State.CLEAR


def test_without_a_ratio_a_travel_is_no_length_at_the_valve():
    found = intake(clay(150), engine=engine(rocker_ratio=None))
    assert found.governing.bound is Bound.AT_MOST


def test_a_blocked_lifter_hides_nothing_whatever_its_travel():
    blocked = replace(LIGHT, lifters=Lifters.BLOCKED)
    assert intake(clay(95), mocked=blocked).figure.value == pytest.approx(thou(95))


def test_an_indicator_is_bounded_alike_and_an_edge_and_a_gap_between_valves_are_not():
    swept = intake(clay=(), sweeps=SWEPT)
    plain = intake(clay=(), sweeps=SWEPT, mocked=replace(LIGHT, lifters=Lifters.SOLID, plunger_mm=None))
    assert swept.figure.value == pytest.approx(plain.figure.value - thou(40 * RATIO))
    assert swept.governing.bound is Bound.AT_LEAST
    edge = clay(60, gap=Gap.RADIAL)
    gap = ValveGapReading(key="gap", mockup="A", cylinder=1, gap_mm=thou(60))
    report = evaluate(job(**TRAIN | {"clay": (edge,), "valve_gaps": (gap,), "mockups": (LIGHT,)}))
    for kind in (RADIAL_CHECK, VALVE_GAP_CHECK):
        (found, *_) = [check for check in report.of_kind(kind) if check.governing]
        assert found.governing.bound is Bound.AT_MOST, kind


@pytest.mark.parametrize("travel", [0.05, 9.0, float("nan")])
def test_a_travel_no_lifter_has_is_refused(travel):
    with pytest.raises(FaultsError):
        mockup(plunger_mm=travel)
