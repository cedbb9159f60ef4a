"""The gap between intake and exhaust valve at overlap: read, judged and carried."""

import math

import pytest

from mockup.base.faults import FaultsError
from mockup.changes.cuts import HEAD_CUT
from mockup.changes.train import CAM_MOVED
from mockup.changes.valves import VALVES_CHANGED
from mockup.checks.check import Trust
from mockup.checks.valve_gap import VALVE_GAP_CHECK, VALVE_GAP_LIMIT
from mockup.engine.mockup import Lifters
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.limits.limit_set import Edit
from mockup.quantity.typed import LengthError
from mockup.quantity.value import Unit
from mockup.readings.kinds import READING_KINDS, ReadAt
from mockup.readings.valve_gap import ValveGapReading
from mockup.report import Verdict
from tests.making import change, job, mockup, thou

LIMIT = job().limits.edited({VALVE_GAP_LIMIT: Edit(thou(40), "the cam’s maker")})


def gap(read, cylinder=1, **more):
    return ValveGapReading(
        **({"key": f"gap{cylinder}{read}{len(more)}", "mockup": "A", "cylinder": cylinder, "gap_mm": thou(read)} | more)
    )


def checks(*readings, **more):
    return evaluate(job(valve_gaps=readings, **({"limits": LIMIT} | more))).of_kind(VALVE_GAP_CHECK)


def test_it_is_judged_as_read_for_no_gasket_moves_two_valves_of_one_head():
    (first, _) = checks(gap(45))
    assert first.figure.value == pytest.approx(thou(45))
    assert (first.state, first.margin) == (State.CLEAR, pytest.approx(thou(5)))
    assert checks(gap(45), final_gasket=None)[0].state is State.CLEAR
    assert checks(gap(39.5))[0].state is State.CLOSE
    assert checks(gap(30))[0].state is State.SHORT


def test_between_two_feelers_it_is_known_to_half_their_step():
    read = READING_KINDS.of(ValveGapReading).one_field.read
    found = read("goes 40 not 45", Unit.INCH, ReadAt(1, None, "A"))
    assert (found.gap_mm, found.half_width_mm) == pytest.approx((thou(42.5), thou(2.5)))
    assert read("45", Unit.INCH, ReadAt(1, None, "A")).half_width_mm == 0
    # GUM 4.3.7: a rectangle of that half width; what feelers repeat within, and their own accuracy, come on top.
    (one, _) = checks(gap(42.5, half_width_mm=thou(2.5)))
    tool = job().instruments["feelers"]
    noise = math.hypot(thou(2.5) / math.sqrt(3), tool.noise_mm)
    assert one.figure.u == pytest.approx(math.hypot(noise, tool.own_mm), rel=1e-6)
    with pytest.raises(LengthError):
        read("goes 45 not 40", Unit.INCH, ReadAt(1, None, "A"))


def test_repeats_are_averaged_and_a_cylinder_read_again_after_a_change_counts_alone():
    assert checks(gap(44), gap(46))[0].figure.value == pytest.approx(thou(45))
    moved = (change(CAM_MOVED, 4.0),)
    stale = checks(gap(45), changes=moved)[0]
    assert (stale.read_again, stale.carried) == (True, ("cam moved since it was read",))
    fresh = checks(gap(45), gap(41, after=1, key="new"), changes=moved)[0]
    assert fresh.figure.value == pytest.approx(thou(41))
    assert not fresh.read_again


def test_larger_valves_come_nearer_by_half_of_it_and_a_cut_head_moves_nothing():
    larger = checks(gap(60), changes=(change(VALVES_CHANGED, 20, side=Side.INTAKE),))[0]
    assert larger.figure.value == pytest.approx(thou(50))
    assert larger.read_again
    cut = checks(gap(60), changes=(change(HEAD_CUT, 20),))[0]
    assert (cut.figure.value, cut.read_again) == (pytest.approx(thou(60)), False)


def test_it_is_asked_for_only_where_somebody_set_a_limit_and_only_as_often_as_the_sheet_wants():
    assert checks(limits=job().limits) == ()
    assert [check.required for check in checks(gap(45), limits=job().limits)] == [False]
    report = evaluate(job(limits=LIMIT))
    assert report.verdict is Verdict.UNFINISHED
    assert report.steps[0].text == "Feel the gap between the valves at overlap of cylinder 1, 2."
    assert evaluate(job(limits=LIMIT, valve_gaps=(gap(45), gap(46, 2)))).verdict is Verdict.CLEAR


def test_a_bleeding_lifter_proves_nothing_and_no_gap_is_wider_than_a_head():
    (loose, _) = checks(gap(60), mockups=(mockup(lifters=Lifters.UNBLOCKED),))
    assert (loose.governing.trust, loose.state) == (Trust.OPTIMISTIC, State.NOT_MEASURED)
    for wrong in ({"gap_mm": 25.0}, {"gap_mm": 1.0, "half_width_mm": 2.0}):
        with pytest.raises(FaultsError):
            ValveGapReading(key="x", mockup="A", cylinder=1, **wrong)


def test_how_many_readings_it_rests_on_is_said_where_there_are_several():
    once, twice = (
        evaluate(job(valve_gaps=tuple(gap(t, key=f"g{t}") for t in read)))
        .of_kind(VALVE_GAP_CHECK)[0]
        .governing.corrections
        for read in ((70,), (70, 72))
    )
    assert (once[0].text, twice[0].text) == ("as read", "as read, mean of 2")
