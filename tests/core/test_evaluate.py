"""Whole reports: coverage, summaries, the verdict, questions and what to do next."""

from dataclasses import replace

import pytest

from mockup.advice.progress import Progress, progress_of
from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.checks.compression import RATIO_CHECK, RATIO_LOW_LIMIT
from mockup.checks.quench import QUENCH_CHECK, QUENCH_HIGH_LIMIT, QUENCH_LOW_LIMIT
from mockup.checks.valve_limits import FACE_INTAKE_LIMIT
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.block import Layout, Numbering
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.limits.limit_set import Coverage, Edit
from mockup.limits.schools import READY_MADE
from mockup.quantity.value import DeckSign
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.record import Record
from mockup.report import Verdict
from mockup.words.report_text import engine_line, report_text
from tests.making import clay, deck, engine, inclined, job, job_with_clay, mockup, thou, twelve, volumes, with_readings


def test_a_build_that_is_clear_says_so_and_names_final_assembly():
    report = evaluate(job())
    assert report.verdict is Verdict.CLEAR
    assert report.steps[0].station is Station.ASSEMBLY
    assert "final assembly" in report.steps[0].text
    # Who has read decks found TDC without the wheel; the cam and pushrods are for those who want them.
    left = (Station.TDC, Station.CAM, Station.PUSHRODS, Station.SWEEP, Station.RIGHT, Station.BUY)
    stops = {stop.station: stop.progress for stop in progress_of(report) if stop.station not in left}
    assert stops.pop(Station.ASSEMBLY) is Progress.NEXT
    assert set(stops.values()) == {Progress.DONE}


def test_one_short_valve_fails_the_build_and_is_the_tightest():
    report = evaluate(job_with_clay(*job().of(ClayReading), clay(90, 2, Side.EXHAUST)))
    assert report.verdict is Verdict.NOT_CLEAR
    assert report.tightest.label == "Exhaust 2"
    assert report.tightest.margin == pytest.approx(thou(-10))
    assert "Exhaust 2 is short" in report.steps[0].text


def test_readings_that_are_missing_leave_the_build_unfinished():
    report = evaluate(job(clay=()))
    assert report.verdict is Verdict.UNFINISHED
    assert report.steps[0].station is Station.CLAY


def test_two_cylinders_and_one_in_each_bank_are_enough_for_a_sample():
    vee = engine(cylinders=8, layout=Layout.VEE, numbering=Numbering.BY_BANK)
    both = {c: [clay(95, c), clay(115, c, Side.EXHAUST)] for c in (1, 2, 5)}
    decks = tuple(deck(c, 5) for c in vee.cylinder_numbers)
    one_bank = evaluate(job_with_clay(*both[1], *both[2], engine=vee, deck=decks))
    two_banks = evaluate(job_with_clay(*both[1], *both[5], engine=vee, deck=decks))
    assert one_bank.verdict is Verdict.UNFINISHED
    assert two_banks.verdict is Verdict.CLEAR
    assert any(check.state is State.NOT_MEASURED for check in two_banks.checks)


def test_a_sheet_that_wants_every_cylinder_is_not_done_with_one():
    limits = replace(READY_MADE["street"], coverage=Coverage.EVERY)
    report = evaluate(job_with_clay(clay(95, 1), clay(115, 1, Side.EXHAUST), limits=limits))
    assert report.verdict is Verdict.UNFINISHED
    assert [check.label for check in report.checks if check.required and not check.governing] == [
        "Intake 2",
        "Exhaust 2",
    ]


def test_makers_figures_not_yet_entered_are_asked_for():
    report = evaluate(job(limits=READY_MADE["makers"]))
    assert report.verdict is Verdict.UNFINISHED
    assert "makers’ minimum" in report.steps[0].text


def test_an_edited_limit_holds_and_shows_that_it_was_edited():
    limits = READY_MADE["street"].edited({FACE_INTAKE_LIMIT: Edit(thou(110), "cam card")})
    check = evaluate(job(limits=limits)).of_kind(FACE_INTAKE_CHECK)[0]
    assert check.limit.edited
    assert check.state is State.SHORT
    assert "edited" in check.limit.source


@pytest.mark.parametrize(
    "edits",
    [
        {QUENCH_HIGH_LIMIT: Edit(0.1)},
        {FACE_INTAKE_LIMIT: Edit(-1.0)},
        {RATIO_LOW_LIMIT: Edit(99.0)},
    ],
)
def test_a_limit_that_makes_no_sense_is_refused(edits):
    with pytest.raises(FaultsError):
        READY_MADE["street"].edited(edits)


def test_taking_a_limit_away_leaves_no_minimum():
    limits = READY_MADE["street"].edited({QUENCH_LOW_LIMIT: Edit(None), QUENCH_HIGH_LIMIT: Edit(None)})
    checks = evaluate(job(limits=limits)).of_kind(QUENCH_CHECK)
    assert {check.state for check in checks} == {State.NO_MINIMUM}
    assert not any(check.required for check in checks)


def test_the_sign_school_changes_no_figure():
    down, out = (evaluate(job(deck_sign=sign)) for sign in DeckSign)
    assert [check.figure for check in down.checks] == [check.figure for check in out.checks]


def test_quench_is_deck_plus_gasket_and_repeats_are_averaged():
    report = evaluate(job(deck=(deck(1, 4), deck(1, 6), deck(2, -3))))
    first, second = report.of_kind(QUENCH_CHECK)
    assert first.figure.value == pytest.approx(thou(41))
    assert second.figure.value == pytest.approx(thou(33))
    assert first.figure.u > second.figure.u  # two readings 2 thou apart say the reading scatters


def test_a_crown_that_would_touch_the_head_is_said_loudly():
    report = evaluate(job(deck=(deck(1, -40), deck(2, 5))))
    check = report.of_kind(QUENCH_CHECK)[0]
    assert check.state is State.SHORT
    assert "touch the head" in check.governing.cautions[0]


def test_volumes_that_leave_no_room_give_no_ratio():
    report = evaluate(job(volumes=volumes(chamber_cc=10.0, piston_cc=-40.0)))
    check = report.of_kind(RATIO_CHECK)[0]
    assert check.figure is None
    assert "no room" in check.governing.cautions[-1]


def test_a_smaller_reading_of_one_cylinder_governs_only_there():
    own = replace(volumes()[0], key="own", cc=60.0, cylinder=2)
    first, second = evaluate(job(volumes=(*volumes(), own))).of_kind(RATIO_CHECK)
    assert second.figure.value > first.figure.value


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"clay": (clay(900), clay(115, 1, Side.EXHAUST))}, "is a lot"),
        ({"deck": (deck(1, 90), deck(2, 5))}, "far from the deck"),
        ({"final_gasket": FinalGasket(compressed_mm=thou(36), bore_mm=90.0)}, "bore is smaller"),
        ({"limits": READY_MADE["turned-about"]}, "more of the intake"),
        ({"volumes": volumes(chamber_cc=20.0)}, "unusual"),
    ],
)
def test_what_is_surprising_is_kept_and_asked_about(changes, words):
    assert any(words in question.text for question in evaluate(job(**changes)).questions)


def test_next_comes_what_is_first_in_bench_order():
    bare = job(deck=(), clay=(), volumes=(), mockups=(), final_gasket=None)
    stations = [step.station for step in evaluate(bare).steps]
    assert stations == sorted(stations, key=list(Station).index)
    begun = evaluate(with_readings(bare, deck=(deck(1, 5),)))
    assert begun.steps[0].cylinder == 2


def test_struck_out_readings_count_for_nothing():
    out = Record(struck="crank moved")
    report = evaluate(job(deck=(replace(deck(1, 40), record=out), deck(2, 5))))
    assert 1 not in report.deck


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        ({"deck": (deck(3, 5),)}, "deck.0.cylinder"),
        ({"clay": (clay(95, 9),)}, "clay.0.cylinder"),
        ({"clay": (clay(95, number=2),)}, "clay.0.valve"),
        ({"clay": (clay(95, mockup="Z"),)}, "clay.0.mockup"),
        ({"deck": (deck(1, 5, instrument="stick"),)}, "deck.0.instrument"),
        ({"deck": (deck(1, 5), deck(1, 5))}, ""),
        ({"mockups": (mockup(), mockup())}, ""),
    ],
)
def test_a_reading_that_points_at_nothing_is_refused(changes, path):
    with pytest.raises(FaultsError) as caught:
        job(**changes)
    assert path in [fault.path for fault in caught.value.faults]


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        ({"cylinders": 0}, "cylinders"),
        ({"cylinders": 3, "layout": Layout.FLAT}, "cylinders"),
        ({"bore_mm": float("nan")}, "bore_mm"),
        ({"stroke_mm": 1e9}, "stroke_mm"),
        ({"rod_length_mm": 48.0}, "rod_length_mm"),
        ({"rocker_ratio": float("inf")}, "rocker_ratio"),
        ({"intake": inclined(75.0)}, "intake.angle_deg"),
        ({"exhaust": inclined(5.0, count=4)}, "exhaust.count"),
    ],
)
def test_an_engine_that_cannot_be_is_refused_at_the_field(changes, path):
    with pytest.raises(FaultsError) as caught:
        engine(**changes)
    assert [fault.path for fault in caught.value.faults] == [path]


def test_two_projected_angles_make_one_inclination():
    row = replace(inclined(45.0), cant_deg=45.0)
    assert row.inclination_deg == pytest.approx(54.7356103)  # the angle of a cube's diagonal, arctan sqrt 2


def test_a_large_build_is_judged_whole():
    report = evaluate(twelve())
    assert len(report.job.of(ClayReading)) + len(report.job.of(DeckReading)) > 390
    assert [summary.total for summary in report.summaries] == [24, 24, 12, 12]


def test_the_report_in_words_says_unit_sheet_state_and_defers_to_the_makers():
    text = report_text(evaluate(job()))
    for part in ("Lengths in thou", "Street, usual", "clear", "makers overrule"):
        assert part in text


def test_the_engine_line_tells_the_engine():
    assert engine_line(engine(cylinders=6), job().unit).startswith("inline six · 3.750 × 3.875 in · 256.8 cu in")
