"""More lift or duration: against evaluate with such a card in the engine."""

from dataclasses import replace

import pytest

from mockup.changes.change import Change
from mockup.changes.train import ROCKERS_CHANGED
from mockup.engine.cam import CamCard, Duration, LobeCard
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.fit.cam_report import lobe_of
from mockup.limits.judge import State
from mockup.plans.batch import Batch
from mockup.plans.lobe_room import LONGER_DEG, Stretched, lobe_rooms
from mockup.plans.room import OfLobe
from mockup.plans.what_if import WhatIf, supposed, train_of
from tests.making import CARD, clay, job, short_eight


def rooms_of(made):
    return {room.lever: room for room in lobe_rooms(Batch(evaluate(made)))}


def longer_card(by_deg):
    """CARD with every duration stretched alike, so that it is by_deg longer at its second."""
    lobe = CARD.intake
    share = 1 + by_deg / lobe.durations[1].deg
    stretched = LobeCard(
        lift_mm=lobe.lift_mm, durations=tuple(Duration(one.deg * share, one.at_mm) for one in lobe.durations)
    )
    return CamCard(intake=stretched, exhaust=stretched, icl_deg=CARD.icl_deg, lsa_deg=CARD.lsa_deg)


@pytest.mark.parametrize("by", [-12.0, -4.0, 5.0, 15.0])
def test_what_a_longer_lobe_takes_is_what_a_card_so_much_longer_takes(by):
    report = evaluate(job(cam_card=CARD))
    check = next(check for check in report.checks if check.label == "Intake 1")
    approach, setting = train_of(report, check)
    share = 1 + by / CARD.intake.durations[1].deg
    stretched = replace(approach, train=replace(approach.train, lobe=Stretched(approach.train.lobe, share)))
    card = replace(approach, train=replace(approach.train, lobe=lobe_of(longer_card(by), Side.INTAKE)))
    now, by_hand, by_card = (float(one.least(setting)[0][0]) for one in (approach, stretched, card))
    # Modes are learnt against the duration: a card so much longer is the same lobe, stretched. To a fiftieth of it.
    assert by_hand - now == pytest.approx(by_card - now, abs=0.02 + 0.02 * abs(by_card - now))


def test_more_lift_at_equal_duration_is_what_rockers_do_alike():
    made = job(cam_card=CARD)
    room = rooms_of(made)[OfLobe.LIFT]
    assert room.holds_now
    for share, clear in ((room.high - 0.002, True), (room.high + 0.002, False)):
        change = Change(key="r", kind=ROCKERS_CHANGED, amount=made.engine.ratio * share)
        after = evaluate(supposed(made, WhatIf(changes=(change,))))
        judged = [check for check in after.checks if check.figure and check.limit.is_set]
        assert all(check.state is State.CLEAR for check in judged) is clear


def test_just_inside_its_end_everything_is_clear_and_just_outside_the_setter_is_not():
    report = evaluate(job(cam_card=CARD))
    room = {one.lever: one for one in lobe_rooms(Batch(report))}[OfLobe.DURATION]
    assert room.holds_now
    assert room.high_check is not None
    check = room.high_check
    approach, setting = train_of(report, check)
    opens, closes = approach.train.lobe.flanks_deg(1.27)
    now = float(approach.least(setting)[0][0])
    for by, clear in ((room.high - 0.05, True), (room.high + 0.05, False)):
        lobe = Stretched(approach.train.lobe, 1 + by / (closes - opens))
        least = float(replace(approach, train=replace(approach.train, lobe=lobe)).least(setting)[0][0])
        left = check.figure.value + least - now - check.figure.expanded - check.limit.low
        assert (left >= -1e-6) is clear


def test_where_something_is_short_the_nearest_is_a_shorter_one():
    made = job(cam_card=CARD, clay=(clay(75), clay(76, 2)))
    room = rooms_of(made)[OfLobe.DURATION]
    assert not room.holds_now
    assert LONGER_DEG[0] < room.nearest < 0


def test_without_a_lobe_there_is_none_and_what_it_does_to_no_valve_is_unchanged():
    assert lobe_rooms(Batch(evaluate(job()))) == ()
    assert set(rooms_of(short_eight())) == {OfLobe.LIFT, OfLobe.DURATION}
