"""How much more lift is safe without a lobe: against the same lobe lifted higher."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.changes.change import Change
from mockup.changes.train import ROCKERS_CHANGED
from mockup.checks.valve_gap import VALVE_GAP_CHECK, VALVE_GAP_LIMIT
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.fit.cam_report import lobe_of
from mockup.limits.judge import State
from mockup.limits.limit_set import Edit
from mockup.plans.batch import Batch
from mockup.plans.lift_bound import lift_bound, lift_bound_words
from mockup.plans.lobe_room import lobe_rooms
from mockup.plans.room import OfLobe
from mockup.plans.what_if import WhatIf, supposed
from mockup.quantity.value import Unit
from mockup.readings.valve_gap import ValveGapReading
from tests.making import CARD, clay, job, thou


def bound_of(made):
    return lift_bound(Batch(evaluate(made)))


def test_clay_alone_gives_what_its_tightest_valve_has_left_with_u_counted():
    report = evaluate(job(cam_card=None))
    faces = [check for check in report.checks if check.label in ("Intake 1", "Exhaust 1")]
    bound = lift_bound(Batch(report))
    left = {one.label: one.figure.value - one.figure.expanded - one.limit.low for one in faces}
    assert bound.more_mm == pytest.approx(min(left.values()))
    assert bound.set_by.label == min(left, key=left.get)


@given(st.floats(7.0, 16.0), st.floats(0.8, 1.3))
def test_the_lobe_itself_never_allows_less(lift_mm, longer):
    lobe = replace(CARD.intake, lift_mm=lift_mm)
    durations = tuple(replace(one, deg=one.deg * longer) for one in lobe.durations)
    card = replace(CARD, intake=replace(lobe, durations=durations))
    bound = bound_of(job(cam_card=None))
    made = job(cam_card=card)
    lifts = [lobe_of(card, side).lift_max_mm * made.engine.ratio for side in Side]
    change = Change(key="r", kind=ROCKERS_CHANGED, amount=bound.more_mm / max(lifts) * made.engine.ratio * 0.999)
    after = evaluate(supposed(made, WhatIf(changes=(change,))))
    assert all(check.state is State.CLEAR for check in after.checks if check.figure and check.limit.is_set)


def test_with_a_card_the_room_is_wider_than_the_bound():
    made = job(cam_card=CARD)
    room = next(one for one in lobe_rooms(Batch(evaluate(made))) if one.lever is OfLobe.LIFT)
    lift = lobe_of(CARD, Side.INTAKE).lift_max_mm * made.engine.ratio
    assert room.high * lift > bound_of(job(cam_card=None)).more_mm


def test_nothing_is_allowed_where_a_valve_is_short_and_nothing_said_where_none_is_read():
    bound = bound_of(job(cam_card=None, clay=(clay(60), clay(110, side=Side.EXHAUST))))
    assert (bound.more_mm, bound.set_by.label) == (0.0, "Intake 1")
    assert "no more lift: Intake 1 is not clear" in lift_bound_words(bound, Unit.INCH)
    assert bound_of(job(cam_card=None, clay=())) is None


def test_both_valves_rise_into_the_gap_between_them():
    alone = bound_of(job(cam_card=None)).more_mm
    limits = job().limits.edited({VALVE_GAP_LIMIT: Edit(thou(40), "the cam’s maker")})
    gap = ValveGapReading(key="gap", mockup="A", cylinder=1, gap_mm=thou(48))
    report = evaluate(job(cam_card=None, valve_gaps=(gap,), limits=limits))
    near = lift_bound(Batch(report))
    check = report.of_kind(VALVE_GAP_CHECK)[0]
    assert near.set_by is check
    assert near.more_mm == pytest.approx((check.figure.value - check.figure.expanded - thou(40)) / 2)
    assert near.more_mm < alone


def test_the_words_give_the_figure_rounded_down_and_what_it_assumes():
    words = lift_bound_words(bound_of(job(cam_card=None)), Unit.INCH)
    assert "At least" in words
    assert "same shape, duration and timing" in words
    assert "Coil bind" in words
    assert "+" not in words
