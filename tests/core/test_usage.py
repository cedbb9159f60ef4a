"""What builders ask beyond the readings: rods and speed, two tools on one crown."""

import pytest

from mockup.advice.usage import TWO_WAYS_MM
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.engine.running import Material, Running
from mockup.evaluate import evaluate
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from tests.making import deck, job, thou

RODS = Running(compression_height_mm=40.0, rod=Material.WROUGHT)
FAST = Running(compression_height_mm=40.0, rpm=8200.0)
EDITED = READY_MADE["street"].edited(
    {FACE_INTAKE_LIMIT: Edit(thou(120), "the rod maker"), FACE_EXHAUST_LIMIT: Edit(thou(130), "the rod maker")}
)


def asked(made, words):
    return [question.text for question in evaluate(made).questions if words in question.text]


@pytest.mark.parametrize(("running", "words"), [(RODS, "Aluminium rods grow"), (FAST, "At 8,200 rpm")])
def test_more_room_is_asked_for_until_the_builder_answers(running, words):
    (said,) = asked(job(running=running), words)
    assert "The limits ask for 80 and 100 thou" in said
    assert asked(job(running=running, limits=EDITED), words) == []
    assert asked(job(running=Running(compression_height_mm=40.0)), words) == []
    assert asked(job(limits=READY_MADE["makers"], running=running), words) == []


def test_the_question_judges_nothing():
    plain, with_rods = (evaluate(job(running=one)) for one in (Running(compression_height_mm=40.0), RODS))
    assert [check.state for check in plain.checks if check.kind.of_a_valve] == [
        check.state for check in with_rods.checks if check.kind.of_a_valve
    ]


@pytest.mark.parametrize(("apart", "is_asked"), [(2.5, True), (1.5, False), (-3.0, True)])
def test_two_tools_on_one_crown_are_compared_and_asked_about(apart, is_asked):
    both = (deck(1, 11), deck(1, 11 + apart, instrument="depth-rod", key="rod"), deck(2, 11))
    found = asked(job(deck=both), "compared, not averaged")
    assert bool(found) is is_asked
    if found:
        assert found[0].startswith("Cylinder 1: bridge and indicator 11 down, caliper depth rod")
    assert thou(2) == TWO_WAYS_MM
    assert asked(job(deck=(deck(1, 11), deck(1, 15, key="again"), deck(2, 11))), "compared, not averaged") == []
