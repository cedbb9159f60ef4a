"""A build checked for a part of the job is asked for that part alone."""

import pytest

from mockup.advice.progress import progress_of
from mockup.base.stations import Station
from mockup.base.topics import STATIONS, Topic, is_asked, topics_of
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.block import Engine
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.limits.judge import State
from mockup.report import Verdict
from mockup.words.report_text import report_text
from tests.making import clay, deck, job


def bare(*topics, **changes):
    plain = {"engine": Engine(cylinders=2), "clay": (), "deck": (), "volumes": (), "mockups": (), "final_gasket": None}
    return job(checking=topics, **(plain | changes))


@pytest.mark.parametrize(
    ("topic", "stations", "kinds"),
    [
        (Topic.VALVES, {Station.MOCKUP, Station.CLAY, Station.STACK}, {FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK}),
        (Topic.DECK, {Station.DECK, Station.STACK}, {QUENCH_CHECK}),
        (Topic.RATIO, {Station.DECK, Station.STACK, Station.VOLUMES}, {RATIO_CHECK}),
    ],
)
def test_only_what_was_chosen_is_asked_for_and_listed(topic, stations, kinds):
    report = evaluate(bare(topic))
    assert {step.station for step in report.steps} - {Station.VERDICT} == stations
    assert {check.kind for check in report.checks} == kinds
    assert {summary.kind for summary in report.summaries} == kinds


def test_several_are_asked_for_together_and_nothing_chosen_is_everything():
    both = evaluate(bare(Topic.VALVES, Topic.DECK))
    assert {check.kind for check in both.checks} == {FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK, QUENCH_CHECK}
    assert topics_of(()) == frozenset(Topic)
    assert {check.kind for check in evaluate(bare()).checks} > {check.kind for check in both.checks}


def test_whoever_checks_valves_reads_first_and_chooses_the_gasket_after():
    stations = [step.station for step in evaluate(bare(Topic.VALVES)).steps]
    assert stations.index(Station.MOCKUP) < stations.index(Station.CLAY) < stations.index(Station.STACK)
    whole = [step.station for step in evaluate(bare()).steps]
    assert whole.index(Station.STACK) < whole.index(Station.MOCKUP)


def test_what_was_read_is_judged_though_nobody_asked():
    report = evaluate(job(checking=(Topic.DECK,), clay=(clay(20),)))
    read = [check for check in report.checks if check.kind is FACE_INTAKE_CHECK]
    assert [(check.state, check.required) for check in read] == [(State.SHORT, False)]
    assert report.verdict is Verdict.NOT_CLEAR
    assert "Intake 1" in report.steps[0].text


def test_a_quench_outside_its_window_is_told_beside_where_nobody_asked_for_it():
    tight = {"checking": (Topic.VALVES,), "volumes": ()}
    report = evaluate(job(deck=(deck(1, -4), deck(2, -3)), **tight))
    assert [check.state for check in report.of_kind(QUENCH_CHECK)] == [State.SHORT, State.SHORT]
    assert report.verdict is Verdict.CLEAR
    assert "not asked for, and not clear: Quench 1, Quench 2" in report_text(report)
    # A crown that stands further out than the gasket is thick meets the head, whoever asked.
    metal = evaluate(job(deck=(deck(1, -40), deck(2, -39)), **tight))
    assert metal.verdict is Verdict.NOT_CLEAR
    assert metal.steps[0].text.startswith("Quench 1 is short")


def test_clear_in_all_that_was_asked_says_what_was_not():
    report = evaluate(job(checking=(Topic.VALVES,), deck=(), volumes=()))
    assert report.verdict is Verdict.CLEAR
    assert report.steps[0].text.startswith("Clear in all that was asked: 4 of 4. Not asked for: deck and quench, ")
    assert "Not asked for: deck and quench, compression ratio, pushrods." in report_text(report)


def test_the_run_folds_away_what_nothing_needs_and_nobody_wrote_at():
    def aside(made):
        return {stop.station for stop in progress_of(evaluate(made)) if stop.aside}

    valves = aside(bare(Topic.VALVES))
    assert valves == {Station.DECK, Station.VOLUMES, Station.QUENCH, Station.PUSHRODS, Station.BUY}
    assert Station.DECK not in aside(bare(Topic.VALVES, deck=(deck(1, 5),)))
    # What to know before buying is never a step.
    assert aside(bare()) == {Station.BUY}


def test_every_station_but_those_of_all_work_is_for_something():
    assert set(STATIONS) == set(Station) - {Station.BLOCK, Station.VERDICT, Station.RIGHT, Station.ASSEMBLY}
    assert is_asked(Station.VERDICT, {Topic.PUSHRODS})


def test_what_it_is_checked_for_stands_in_its_file():
    made = job(checking=(Topic.VALVES, Topic.RATIO))
    assert read_job(write_job(made)) == made
