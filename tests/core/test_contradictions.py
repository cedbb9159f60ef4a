"""Readings that contradict each other: methods, sister valves, one cylinder of several."""

import re
from dataclasses import replace

import pytest

from mockup.base.stations import Station
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.mockup import DialTurns, Overlap
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, State
from mockup.plans.what_if import WhatIf, supposed
from mockup.readings.volumes import VolumePart, VolumeReading
from mockup.report import Verdict
from tests.making import CARD, change, clay, deck, engine, job, mockup, thou, with_readings
from tests.making_readings import sweep, table

FOUR = {"engine": engine(cylinders=4), "deck": tuple(deck(c, 4) for c in range(1, 5)), "volumes": ()}


def four(*intakes, **changes):
    """Four cylinders, an intake's clay each."""
    return job(**FOUR | {"clay": tuple(clay(t, c) for c, t in enumerate(intakes, 1))} | changes)


def intake(report, cylinder=1):
    return next(c for c in report.of_kind(FACE_INTAKE_CHECK) if c.cylinder == cylinder)


def read_at(clearance, *, angle=8.0, cylinder=1, key="s", **changes):
    return replace(sweep(angle, clearance, key=key), place=Place(cylinder, Side.INTAKE), **changes)


@pytest.mark.parametrize(
    ("clays", "read", "words"),
    [
        # Common practice, no source: clay under a loaded train reads up to some 35 thou more than the indicator.
        ((62,), 160, "about a whole turn of the dial (100 thou)"),
        ((62,), 112, "about a whole turn of the dial (50 thou)"),
        ((62,), 90, "further apart than U allows"),
        ((122,), 90, ""),
        ((160,), 90, "further apart than U allows"),
        ((92,), 90, ""),
        ((0,), 134, "touches, but dial indicator"),
    ],
)
def test_two_methods_that_cannot_both_be_right_are_asked_about_and_neither_is_clear(clays, read, words):
    # One reading with the angle unknown to the fit would be too unsure to contradict anything: a sweep is read.
    swept = tuple(read_at(read + 0.0215 * (at - 8) ** 2, angle=at, key=f"s{at}") for at in (0, 4, 8, 12, 16))
    report = evaluate(job(clay=tuple(clay(one) for one in clays), sweeps=swept, deck=(), volumes=()))
    asked = [question for question in report.questions if "Intake 1" in question.against]
    assert [words in question.text for question in asked] == [True] * bool(words)
    assert intake(report).state is not State.CLEAR or not words


def test_clay_that_was_not_touched_contradicts_a_slice_under_it():
    over, under = clay(90, touched=False), clay(60, mockup="B")
    report = evaluate(job(clay=(over, under), mockups=(mockup(), mockup(key="B"))))
    (question,) = (one for one in report.questions if "was not touched" in one.text)
    assert question.against == ("Intake 1",)


@pytest.mark.parametrize(
    ("intakes", "odd"),
    [((98, 97, 160, 99), 3), ((97, 98, 99, 96), None), ((98, 97, 99, 55), 4), ((99, 108, 90, 97), None)],
)
def test_a_valve_that_lies_apart_from_its_sisters_is_asked_about_and_not_clear(intakes, odd):
    report = evaluate(four(*intakes))
    asked = [question for question in report.questions if "its sisters" in question.text]
    assert [question.against for question in asked] == ([(f"Intake {odd}",)] if odd else [])
    if odd and intakes[odd - 1] > 90:
        assert intake(report, odd).state is State.QUESTIONED
        assert report.verdict is Verdict.NOT_CLEAR
        assert any(
            step.station is Station.VERDICT and f"Intake {odd} is in question" in step.text for step in report.steps
        )


def test_decks_are_counted_before_sisters_are_compared():
    # Cylinder 3 stands 40 deeper, and so its valve has 40 more.
    deeper = (*(deck(c, 4) for c in (1, 2, 4)), deck(3, 44))
    plain = evaluate(four(97, 97, 137, 97, deck=deeper))
    assert not [question for question in plain.questions if "its sisters" in question.text]
    assert [question for question in evaluate(four(97, 97, 137, 97)).questions if "its sisters" in question.text]


@pytest.mark.parametrize(
    ("third", "words", "clear"),
    [
        (6, "", True),
        (11, "Its own piston and rod?", True),
        (60, "with the dial’s turns counted", False),
        (-6, "It would fit as 6 down", False),
        (-30, "with the dial’s turns counted", False),
    ],
)
def test_a_crown_too_deep_or_too_high_is_asked_about_and_a_slip_takes_its_clear_away(third, words, clear):
    crowns = tuple(deck(c, down) for c, down in enumerate((6, 5, third, 6), 1))
    report = evaluate(job(engine=engine(cylinders=4), deck=crowns, volumes=(), clay=()))
    asked = [question for question in report.questions if question.text.startswith("The crown of cylinder 3")]
    assert [words in question.text for question in asked] == [True] * bool(words)
    quench = report.of_kind(QUENCH_CHECK)[2]
    assert bool(quench.questioned) is not clear


def test_of_two_crowns_far_apart_neither_is_believed():
    report = evaluate(job(deck=(deck(1, 4), deck(2, 60)), volumes=()))
    (question,) = (one for one in report.questions if "crowns of cylinders 1 and 2 differ" in one.text)
    assert {"Quench 1", "Quench 2"} <= set(question.against)


@pytest.mark.parametrize(("second", "asked", "clear"), [(64.5, False, True), (62.0, True, True), (46.0, True, False)])
def test_a_chamber_among_others_is_asked_about(second, asked, clear):
    chambers = tuple(
        VolumeReading(key=f"c{c}", part=VolumePart.CHAMBER, cc=cc, cylinder=c)
        for c, cc in enumerate((64.0, second, 64.2, 63.9), 1)
    )
    report = evaluate(four(97, 97, 97, 97, volumes=chambers))
    found = [question for question in report.questions if "chamber volume of cylinder 2" in question.text]
    assert bool(found) is asked
    assert not found or bool(found[0].against) is not clear


@pytest.mark.parametrize("count", [1, 2, 3])
@pytest.mark.parametrize("overlap", [Overlap.NOT_STATED, Overlap.WHEEL])
def test_readings_at_firing_tdc_are_never_clear_until_overlap_was_told(count, overlap):
    # Both valves shut: the clearance follows the piston alone, and there is plenty.
    base = job(engine=engine(stroke_mm=88.0, rod_length_mm=145.0))
    crank = evaluate(base).crank
    angles = (8.0, 12.0, 15.0)[:count]
    swept = tuple(read_at(150 + float(crank.travel_mm(at)) / thou(1), angle=at, key=f"s{at}") for at in angles)
    report = evaluate(with_readings(replace(base, mockups=(mockup(overlap=overlap),)), clay=(), sweeps=swept))
    assert intake(report).state is not State.CLEAR
    if count == 1:
        assert any("from firing TDC" in caution for caution in intake(report).governing.cautions)
    else:
        assert any("Was it firing TDC?" in question.text for question in report.questions)


def test_one_reading_is_clear_once_overlap_was_told_by_the_valves():
    swept = (read_at(430, angle=10.0),)
    told = evaluate(job(clay=(), sweeps=swept))
    assert intake(told).state is State.CLEAR
    for overlap in (Overlap.NOT_STATED, Overlap.WHEEL):
        untold = evaluate(job(clay=(), sweeps=swept, mockups=(mockup(overlap=overlap),)))
        assert intake(untold).state is State.NOT_MEASURED


def test_a_reading_that_equals_the_drop_was_taken_with_the_valve_shut():
    swept = (read_at(150, angle=1.0), read_at(150, angle=0.0, key="d", drop=True))
    report = evaluate(job(clay=(), sweeps=swept))
    assert intake(report).figure is None
    assert any("Was it firing TDC?" in question.text for question in report.questions)


def test_past_a_turn_of_the_dial_the_turns_must_have_been_counted():
    swept = tuple(read_at(160 + 0.0215 * (at - 8) ** 2, angle=at, key=f"s{at}") for at in (0, 4, 8, 12, 16))
    for turns, state in (
        (DialTurns.COUNTER, State.CLEAR),
        (DialTurns.COUNTED, State.CLEAR),
        (DialTurns.NOT_STATED, State.NOT_MEASURED),
    ):
        assert intake(evaluate(job(clay=(), sweeps=swept, mockups=(mockup(dial_turns=turns),)))).state is state
    feelers = tuple(replace(one, instrument="feelers") for one in swept)
    unsaid = mockup(dial_turns=DialTurns.NOT_STATED)
    assert intake(evaluate(job(clay=(), sweeps=feelers, mockups=(unsaid,)))).state is State.CLEAR


@pytest.mark.parametrize(
    ("step", "below", "u"), [(0.0, 0.9, 1.1), (5.0, 0.9, 1.1), (10.0, 2.5, 3.06), (None, 2.5, 3.06)]
)
def test_the_smallest_by_turning_counts_how_the_crank_was_turned(step, below, u):
    # Closed form: C''/2 x^2 with x anywhere within half a step of n degrees is 0.025 n^2 thou in the mean.
    turned = read_at(100, angle=0.0, by_turning=True, turned_step_deg=step)
    report = evaluate(job(clay=(), sweeps=(turned,)))
    minimum = report.sweeps[0].closest.minimum
    assert minimum.value == pytest.approx(thou(100 - below), abs=thou(0.05))
    assert minimum.u == pytest.approx(thou(u), rel=0.12)
    asked = any("How the crank was turned" in caution for caution in intake(report).governing.cautions)
    assert asked is (step is None)


def test_one_reading_gone_backwards_is_named():
    right = {at: 90 + 0.0215 * (at - 8) ** 2 for at in (-4, 0, 4, 8, 12, 16)}
    # Ninety on a dial of a hundred divisions that went the other way shows ten.
    swept = tuple(read_at(10 if at == 4 else c, angle=at, key=f"s{at}") for at, c in right.items())
    report = evaluate(job(clay=(), sweeps=swept))
    (question,) = (one for one in report.questions if "the others fit" in one.text)
    assert question.evidence == "s4"
    assert question.against == ("Intake 1",)
    assert intake(report).state is not State.CLEAR


def test_readings_that_show_the_cam_away_from_its_table_say_so_and_the_drop_is_less_sure():
    # A made-up lobe in closed form, L (1 - (x/150)^2)^3, standing twelve degrees from where its card says.
    half, lift = 150.0, 9.0

    def lobe(x):
        return lift * max(1 - (x / half) ** 2, 0.0) ** 3

    angles = tuple(float(a) for a in range(-150, 151, 3))
    measured = table(angles_deg=angles, lifts_mm=tuple(lobe(a) for a in angles), u_mm=0.002)
    crank = evaluate(job()).crank

    def read(late):
        swept = [(at, 5.5 + float(crank.travel_mm(at)) - lobe(at - 106 - late)) for at in range(-10, 31, 5)]
        readings = tuple(read_at(mm / thou(1), angle=float(at), key=f"s{at}") for at, mm in swept)
        return evaluate(job(clay=(), sweeps=readings, cam_card=CARD, lobe_tables=(measured,)))

    right, away = read(0.0), read(12.0)
    said = [question for question in away.questions if "the cam about" in question.text]
    assert not [question for question in right.questions if "the cam about" in question.text]
    assert abs(int(re.search(r"about (\d+)° behind", said[0].text)[1]) - 12) <= 2
    assert said[0].against == ("Intake 1",)
    drops = [report.sweeps[0].closest.fitted.drop for report in (right, away)]
    assert abs(drops[1].value - 5.5) <= drops[1].expanded


@pytest.mark.parametrize(("more", "takes"), [(0.1, 1.0), (-0.1, 0.0)])
def test_other_rockers_without_a_lobe_give_a_bound(more, takes):
    # A point of the lobe lifts by no more than its highest: 0.1 of ratio on 10 mm takes at most 1 mm.
    made = job(engine=engine(rocker_ratio=1.5), clay=(clay(160),))
    after = intake(evaluate(supposed(made, WhatIf(changes=(change(ROCKERS_CHANGED, more),)))))
    assert after.governing.bound is Bound.AT_LEAST
    assert after.figure.value == pytest.approx(intake(evaluate(made)).figure.value - takes)
    assert any("at most their change times the full lobe lift" in caution for caution in after.governing.cautions)
    moved = evaluate(supposed(made, WhatIf(changes=(change(CAM_MOVED, 2.0),))))
    assert intake(moved).figure is None
