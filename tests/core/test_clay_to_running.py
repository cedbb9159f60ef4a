"""From clay as read to clearance as it will run: corrections, and trust by conditions."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.checks.check import Trust
from mockup.checks.valve_limits import FACE_INTAKE_LIMIT
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK, RADIAL_CHECK
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import Bolts, Clay, LashAt, Lifters, Springs
from mockup.engine.valves import Relief, Side, axial_factor
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, State
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from mockup.quantity.value import Unit
from mockup.readings.clay import Gap
from mockup.readings.record import Record
from mockup.words.report_text import as_mocked_up_text
from tests.making import clay, engine, inclined, job, job_with_clay, mockup, thou


def face(job_, side=Side.INTAKE, cylinder=1):
    kind = FACE_INTAKE_CHECK if side is Side.INTAKE else FACE_EXHAUST_CHECK
    return next(c for c in evaluate(job_).of_kind(kind) if c.cylinder == cylinder)


def running_thou(job_, **which):
    return face(job_, **which).figure.value / thou(1)


def test_the_thinnest_slice_governs_and_all_are_its_evidence():
    check = face(job_with_clay(clay(99), clay(97), clay(98)))
    assert check.figure.value == pytest.approx(thou(97))
    assert len(check.governing.evidence) == 3


def test_a_slice_struck_out_does_not_count():
    struck = clay(60, record=Record(struck="dented by the caliper"))
    assert running_thou(job_with_clay(clay(97), struck)) == pytest.approx(97)


@pytest.mark.parametrize(
    ("state", "mocked", "final", "running"),
    [
        (
            GasketState.COMPRESSED,
            60,
            40,
            120,
        ),  # 0.140 with a 0.060 gasket; a 0.040 takes 0.020: common practice, no source
        (GasketState.COMPRESSED, 26, 28, 142),  # used 0.026, final 0.028: add 0.002: common practice, no source
        (GasketState.NONE, 0, 36, 176),  # none at all: the final thickness is added
        (GasketState.SNUGGED, 55, 40, 125),  # free minus compressed comes off
    ],
)
def test_the_gasket_is_carried_from_the_mock_up_to_the_engine(state, mocked, final, running):
    gasket = FinalGasket(compressed_mm=thou(final), bore_mm=97)
    under = mockup(gasket_state=state, gasket_mm=thou(mocked))
    assert running_thou(job_with_clay(clay(140), final_gasket=gasket, mockups=(under,))) == pytest.approx(running)


def test_at_an_angle_the_gasket_counts_by_its_share_along_the_valve():
    tilted = engine(intake=inclined(20.0))
    gasket = FinalGasket(compressed_mm=thou(46), bore_mm=97)
    found = running_thou(job_with_clay(clay(100), engine=tilted, final_gasket=gasket))
    assert found == pytest.approx(100 + 10 * math.cos(math.radians(20)))


def test_clay_on_a_flat_crown_is_read_square_to_it_and_taken_along_the_valve():
    tilted = engine(intake=inclined(20.0, Relief.FLAT))
    found = running_thou(job_with_clay(clay(100), engine=tilted))
    assert found == pytest.approx(100 / math.cos(math.radians(20)))


@pytest.mark.parametrize(("lash_at", "comes_off"), [(LashAt.VALVE, 10), (LashAt.PUSHROD, 16)])
def test_lash_left_in_is_never_credited(lash_at, comes_off):
    with_lash = mockup(lash_mm=thou(10), lash_at=lash_at)
    found = running_thou(job_with_clay(clay(120), engine=engine(rocker_ratio=1.6), mockups=(with_lash,)))
    assert found == pytest.approx(120 - comes_off)


def test_soft_dough_is_less_sure_by_a_tenth_of_a_millimetre():
    plain = face(job_with_clay(clay(120))).figure
    dough = face(job_with_clay(clay(120), mockups=(mockup(clay=Clay.DOUGH),))).figure
    assert dough.value == plain.value
    assert dough.u == pytest.approx(math.hypot(plain.u, 0.10))


def test_a_new_gasket_only_snugged_is_less_sure():
    new = mockup(gasket_state=GasketState.SNUGGED)
    assert face(job_with_clay(clay(120), mockups=(new,))).figure.u > face(job_with_clay(clay(120))).figure.u


@pytest.mark.parametrize(
    ("changes", "trust"),
    [
        ({"lifters": Lifters.UNBLOCKED}, Trust.OPTIMISTIC),
        ({"two_turns": False}, Trust.OPTIMISTIC),
        ({"springs": Springs.RUNNING}, Trust.LOADED),
        ({"clay": Clay.PUTTY}, Trust.VOID),
    ],
)
def test_conditions_that_flatter_prove_nothing(changes, trust):
    check = face(job_with_clay(clay(200), mockups=(mockup(**changes),)))
    assert check.governing.trust is trust
    assert check.state is State.NOT_MEASURED
    assert check.governing.cautions


@pytest.mark.parametrize("changes", [{"lifters": Lifters.UNBLOCKED}, {"springs": Springs.RUNNING}])
def test_what_is_short_even_when_flattered_is_short(changes):
    assert face(job_with_clay(clay(60), mockups=(mockup(**changes),))).state is State.SHORT


def test_loaded_readings_count_where_the_sheet_judges_loaded():
    limits = READY_MADE["loaded"].edited({FACE_INTAKE_LIMIT: Edit(thou(60), "class rule")})
    loaded = mockup(springs=Springs.RUNNING)
    assert face(job_with_clay(clay(100), mockups=(loaded,), limits=limits)).state is State.CLEAR


def two_mockups(first_thou, second_thou, **second):
    under = (mockup(), mockup(key="B", **second))
    return job_with_clay(clay(first_thou), clay(second_thou, mockup="B", key="b"), mockups=under)


def test_the_smallest_sound_figure_governs_and_the_other_is_shown():
    check = face(two_mockups(110, 100))
    assert check.governing.method == "clay, mock-up B"
    assert [other.method for other in check.others] == ["clay, mock-up A"]


def test_a_flattering_reading_never_outweighs_a_sound_one():
    check = face(two_mockups(95, 90, lifters=Lifters.UNBLOCKED))
    assert check.governing.method == "clay, mock-up A"
    assert check.governing.bound is Bound.EXACT


def test_a_flattering_reading_that_is_smaller_is_asked_about():
    report = evaluate(two_mockups(110, 100, lifters=Lifters.UNBLOCKED))
    assert any("reads smaller" in question.text for question in report.questions)


def test_without_the_final_gasket_the_running_figure_is_not_known():
    check = face(job(final_gasket=None))
    assert check.state is State.NOT_MEASURED
    assert "final gasket" in check.governing.cautions[0]


@pytest.mark.parametrize(
    ("bolts", "near", "warned"),
    [
        (Bolts.SNUGGED, 84, True),
        (Bolts.SNUGGED, 95, False),
        (Bolts.TORQUED, 84, False),
    ],
)
def test_a_head_only_snugged_near_the_limit_is_to_be_torqued(bolts, near, warned):
    check = face(job_with_clay(clay(near), mockups=(mockup(bolts=bolts),)))
    assert any("torque it" in caution for caution in check.governing.cautions) is warned


def test_at_the_edge_a_gasket_change_only_adds_doubt():
    tilted = engine(intake=inclined(20.0))
    gasket = FinalGasket(compressed_mm=thou(46), bore_mm=97)
    readings = (clay(54, gap=Gap.RADIAL), clay(52, gap=Gap.RADIAL, key="second"))
    report = evaluate(job_with_clay(*readings, engine=tilted, final_gasket=gasket))
    edge = next(check for check in report.of_kind(RADIAL_CHECK) if check.figure)
    assert edge.figure.value == pytest.approx(thou(52))
    assert edge.state is State.NO_MINIMUM
    assert edge.figure.u > thou(1.7)


@given(st.floats(0, 60), st.floats(0, 1))
def test_axial_factor_lies_between_its_two_ends(angle, share):
    a = math.radians(angle)
    assert math.cos(a) - 1e-12 <= axial_factor(angle, share * angle) <= 1 / math.cos(a) + 1e-12
    assert axial_factor(angle, angle) == pytest.approx(math.cos(a))
    assert axial_factor(angle, 0.0) == pytest.approx(1 / math.cos(a))


def test_what_was_read_before_the_gasket_is_chosen_is_shown_as_mocked_up_and_judged_by_nothing():
    lashed = mockup(lash_mm=thou(4))
    check = face(job(clay=(clay(99), clay(96)), mockups=(lashed,), final_gasket=None))
    assert (check.figure, check.state) == (None, State.NOT_MEASURED)
    assert check.as_mocked_up.value == pytest.approx(thou(92))  # lash is never counted on, gasket or not
    assert as_mocked_up_text(check, Unit.INCH).startswith("92 ±")
    assert face(job()).as_mocked_up is None
    for nothing in ({"mockups": (mockup(clay=Clay.PUTTY),)}, {"clay": ()}):
        found = face(job(final_gasket=None, **nothing))
        assert (found.as_mocked_up, as_mocked_up_text(found, Unit.INCH)) == (None, "")
    over = face(job(clay=(clay(200, touched=False),), final_gasket=None))
    assert as_mocked_up_text(over, Unit.INCH).startswith("at least 200 ±")
