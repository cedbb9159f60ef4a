"""What to do next and how far a job is, read by clay, by indicator or by both."""

from dataclasses import replace

import pytest

from mockup.advice.progress import Progress, progress_of
from mockup.base.stations import Station
from mockup.changes.change import Change
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.block import valve_places
from mockup.engine.mockup import Lifters
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.limits.schools import READY_MADE
from mockup.report import station_read_at
from tests.making import CARD, change, clay, cut, deck, engine, inclined, job, mockup, thou, volumes
from tests.making_readings import SWEPT, sweep

EXHAUST = clay(115, 1, Side.EXHAUST)
BOTH = tuple(replace(one, key=f"{one.key}-2", place=Place(2, Side.INTAKE)) for one in SWEPT)


def steps(**changes):
    return evaluate(job(**changes)).steps


def stops(report):
    return {stop.station: stop for stop in progress_of(report)}


def test_an_unbracketed_sweep_sends_back_to_the_indicator_not_to_the_clay():
    found = [step for step in steps(clay=(EXHAUST,), sweeps=SWEPT[2:]) if "proves nothing yet" in step.text]
    assert [(step.station, step.cylinder) for step in found] == [(Station.SWEEP, 1)]
    assert found[0].text.endswith("Read on.")


def test_flattered_clay_sends_back_to_the_clay():
    loose = mockup(lifters=Lifters.UNBLOCKED)
    found = [step for step in steps(mockups=(loose,)) if "proves nothing yet" in step.text]
    assert {step.station for step in found} == {Station.CLAY}
    assert all(step.text.endswith("Clay it again.") for step in found)


def test_after_a_cut_each_reading_is_asked_for_again_by_the_method_it_was_taken_with():
    asked = steps(clay=(EXHAUST,), sweeps=SWEPT, changes=(cut(4),))
    found = [step for step in asked if "again: " in step.text and step.station is not Station.DECK]
    assert [(step.station, step.text.split(":")[0]) for step in found] == [
        (Station.CLAY, "Clay again"),
        (Station.SWEEP, "Read by indicator again"),
    ]
    assert "Exhaust 1; deck cut since it was read." in found[0].text
    assert "Intake 1; deck cut since it was read." in found[1].text


def test_only_the_station_whose_readings_are_of_another_engine_is_stale():
    swept = stops(evaluate(job(clay=(), sweeps=(*SWEPT, *BOTH), changes=(cut(4),))))
    assert swept[Station.SWEEP].progress is Progress.STALE
    assert swept[Station.CLAY].progress is not Progress.STALE
    clayed = stops(evaluate(job(changes=(cut(4),))))
    assert clayed[Station.CLAY].progress is Progress.STALE
    assert clayed[Station.SWEEP].progress is not Progress.STALE


def test_readings_taken_anew_are_stale_no_more():
    anew = tuple(replace(one, after=1, key=f"new-{one.key}") for one in SWEPT)
    report = evaluate(job(clay=(), sweeps=(*SWEPT, *anew), changes=(cut(4),)))
    assert stops(report)[Station.SWEEP].progress is not Progress.STALE
    assert report.sweeps[0].readings == anew


def test_other_pistons_void_a_sweep_as_they_void_clay():
    changed = Change(key="p", kind=PISTONS_CHANGED, order=1, front_mm=thou(5), rear_mm=thou(5))
    check = evaluate(job(clay=(), sweeps=SWEPT, changes=(changed,))).of_kind(FACE_INTAKE_CHECK)[0]
    assert check.figure is None
    assert any("Other pistons" in caution for caution in check.governing.cautions)


def test_a_cylinder_begun_by_indicator_comes_before_a_fresh_one():
    third = tuple(replace(one, key=f"{one.key}-3", place=Place(3, Side.INTAKE)) for one in SWEPT)
    four = engine(cylinders=4)
    decks = tuple(deck(c, 5) for c in four.cylinder_numbers)
    made = {"engine": four, "deck": decks, "sweeps": third}
    asked = [s.cylinder for s in steps(**made, clay=()) if s.station is Station.SWEEP]
    assert asked[0] == 3


def test_what_is_next_follows_the_method_in_use():
    by_dial = steps(clay=(), sweeps=SWEPT)
    assert next((s.station, s.text) for s in by_dial if "Exhaust 1" in s.text) == (
        Station.SWEEP,
        "Read cylinder 1 by indicator: Exhaust 1.",
    )
    assert not any(s.station is Station.CLAY for s in by_dial)
    by_clay = steps(clay=(clay(95),), sweeps=SWEPT)
    assert any(s.station is Station.CLAY for s in by_clay)
    # An edge is only read by clay.
    edged = steps(clay=(), sweeps=SWEPT, limits=READY_MADE["street-floor"])
    assert {s.station for s in edged if "edge" in s.text} == {Station.CLAY}


@pytest.mark.parametrize(("sweeps", "note"), [(SWEPT, "1 valve swept"), ((*SWEPT, *BOTH), "2 valves swept")])
def test_the_run_counts_valves_that_were_swept(sweeps, note):
    assert stops(evaluate(job(sweeps=sweeps)))[Station.SWEEP].note == note


def test_the_drop_alone_is_no_swept_valve():
    alone = replace(SWEPT[0], drop=True)
    assert stops(evaluate(job(sweeps=(alone,))))[Station.SWEEP].note == "1 reading"


def test_a_finding_is_traced_to_its_station_by_its_evidence():
    report = evaluate(job(clay=(clay(150), EXHAUST), sweeps=SWEPT))
    intake, exhaust = report.of_kind(FACE_INTAKE_CHECK)[0], report.of_kind(FACE_EXHAUST_CHECK)[0]
    assert station_read_at(report.job, intake.governing) is Station.SWEEP
    assert station_read_at(report.job, intake.others[0]) is Station.CLAY
    assert station_read_at(report.job, exhaust.governing) is Station.CLAY


def test_every_valve_of_a_cylinder_is_listed_in_bench_order():
    four = engine(intake=inclined(14, count=2), exhaust=inclined(15))
    assert [place.label(four.row(place.side).count) for place in valve_places(four, 2)] == [
        "Intake 2a",
        "Intake 2b",
        "Exhaust 2",
    ]


def test_what_an_unread_valve_seems_to_have_left_counts_its_u_and_a_read_one_has_none():
    report = evaluate(job(clay=(), sweeps=SWEPT))
    read, unread = report.of_kind(FACE_INTAKE_CHECK)
    figure = unread.inferred.figure
    assert unread.seems_left == pytest.approx(figure.value - figure.expanded - unread.limit.low)
    assert read.seems_left is None


def test_a_question_is_asked_of_a_great_deal_and_of_one_that_stands_out():
    great = sweep(25, 950)
    wild = replace(SWEPT[2], clearance_mm=SWEPT[2].clearance_mm + thou(25))
    asked = [question.text for question in evaluate(job(sweeps=(*SWEPT, great))).questions]
    assert any("is a lot" in text for text in asked)
    more = tuple(sweep(angle, down) for angle, down in ((2, 90), (7, 85), (12, 99), (17, 130)))
    report = evaluate(job(sweeps=(*SWEPT[:2], wild, *SWEPT[3:], *more)))
    (stands_out,) = (question for question in report.questions if question.evidence == wild.key)
    assert stands_out.text.startswith("Intake 1: without the reading at 10 ATDC the others fit")


def test_repeats_at_one_angle_pool_their_scatter_into_every_reading():
    once = evaluate(job(sweeps=SWEPT)).sweeps[0]
    twice = tuple(replace(one, key=f"r{one.key}", clearance_mm=one.clearance_mm + thou(3)) for one in SWEPT)
    repeated = evaluate(job(sweeps=(*SWEPT, *twice))).sweeps[0]
    assert len(repeated.angles_deg) == 10
    assert repeated.closest.minimum.value == pytest.approx(once.closest.minimum.value + thou(1.5), abs=thou(0.3))
    assert repeated.closest.scatter > 1.5  # the repeats say that they scatter more than the instrument should


def test_two_instruments_on_one_valve_are_two_findings():
    feelers = tuple(replace(one, key=f"f{one.key}", instrument="feelers") for one in SWEPT)
    report = evaluate(job(clay=(), sweeps=(*SWEPT, *feelers)))
    check = report.of_kind(FACE_INTAKE_CHECK)[0]
    methods = {check.governing.method.split(",")[0], *(other.method.split(",")[0] for other in check.others)}
    assert methods == {"dial indicator", "feelers"}


@pytest.mark.parametrize(
    ("changed", "station", "progress", "note"),
    [
        ({}, Station.BLOCK, Progress.DONE, "inline 2"),
        ({}, Station.DECK, Progress.DONE, "2 of 2, highest 4 down"),
        ({}, Station.STACK, Progress.DONE, "gasket chosen"),
        ({}, Station.QUENCH, Progress.DONE, "40–41"),
        ({}, Station.CLAY, Progress.DONE, "2 of 2 cylinders"),
        ({}, Station.VERDICT, Progress.DONE, "clear"),
        ({"deck": (deck(1, 5), deck(2, 5))}, Station.QUENCH, Progress.DONE, "41"),
        ({"deck": (deck(1, 4),)}, Station.DECK, None, "1 of 2, highest 4 down"),
        ({"mockups": (), "clay": ()}, Station.MOCKUP, None, ""),
        ({"volumes": volumes()[:1]}, Station.VOLUMES, None, "begun"),
        ({"changes": (cut(2, order=None),)}, Station.STACK, None, "gasket chosen, cut decided"),
        ({"changes": (cut(2, order=None),)}, Station.RIGHT, None, "1 to do"),
        ({"changes": (cut(2),)}, Station.DECK, Progress.STALE, "2 of 2, highest 2 down"),
        ({"cam_card": CARD}, Station.CAM, None, "ICL 106.0, ECL 114.0"),
    ],
)
def test_each_stop_of_the_run_says_how_far_it_has_come(changed, station, progress, note):
    stop = stops(evaluate(job(**changed)))[station]
    assert stop.note == note
    assert progress in (None, stop.progress)


def test_parts_that_may_meet_come_before_everything_that_is_not_read_yet():
    # Nothing but one reading of clay: whoever has it is not sent to find TDC first.
    short = evaluate(job(clay=(clay(40),), deck=(), tdc=(), volumes=()))
    assert (short.steps[0].station, short.steps[0].text[:18]) == (Station.RIGHT, "Intake 1 is short,")
    touching = evaluate(job(clay=(clay(0),), deck=(), tdc=(), volumes=()))
    assert "metal on metal" in touching.steps[0].text
    near = evaluate(job(clay=(clay(78),), deck=(), tdc=(), volumes=()))
    assert near.steps[0].station is Station.TDC
    # What is decided against it is done first, and then it is read again.
    decided = change(RELIEF_DEEPENED, 60, order=None, side=Side.INTAKE)
    planned = [step.text[:8] for step in evaluate(job(clay=(clay(40),), changes=(decided,))).steps]
    assert planned.index("Decided ") < planned.index("Intake 1")
