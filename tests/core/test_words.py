"""A report in words: every line a page shows, in both units and both schools."""

import pytest

from mockup.checks.check import Check, Finding
from mockup.checks.compression import RATIO_CHECK, RATIO_HIGH_LIMIT
from mockup.checks.head_clay import CROWN_LIMIT
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valve_limits import FACE_INTAKE_LIMIT, RADIAL_LIMIT
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.block import Layout
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Clay, Lifters, Springs
from mockup.engine.valves import Relief, ValveRow
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, Limit
from mockup.quantity.corrections import Correction
from mockup.quantity.shown import format_deck_signed, format_degrees, format_piston_volume, format_volume
from mockup.quantity.value import DeckSign, Unit, Value
from mockup.words import report_text
from tests.making import engine, inclined, job, mockup, thou

INCH, MM = Unit.INCH, Unit.MILLIMETRE


def check(figure=None, limit=None, kind=FACE_INTAKE_CHECK, bound=Bound.EXACT):
    finding = Finding(figure=figure, method="clay", bound=bound)
    return Check(kind=kind, cylinder=1, label="Intake 1", limit=limit or Limit(), governing=finding)


@pytest.mark.parametrize(
    ("limit", "kind", "unit", "text"),
    [
        (Limit(), QUENCH_CHECK, INCH, "none set"),
        (Limit(low=thou(80)), FACE_INTAKE_CHECK, INCH, "80"),
        (Limit(low=thou(80)), FACE_INTAKE_CHECK, MM, "2.03"),
        (Limit(low=thou(35), high=thou(45)), QUENCH_CHECK, INCH, "35–45"),
        (Limit(high=thou(45)), QUENCH_CHECK, INCH, "at most 45"),
        (Limit(low=9.6, high=10.3), RATIO_CHECK, MM, "9.60–10.30"),
    ],
)
def test_a_limit_is_said_in_the_unit_of_its_kind(limit, kind, unit, text):
    assert report_text.limit_text(limit, kind, unit) == text


@pytest.mark.parametrize(
    ("value", "name", "unit", "text"),
    [
        (None, CROWN_LIMIT, INCH, "none"),
        (thou(20), RADIAL_LIMIT, INCH, "20 thou"),
        (1.5, FACE_INTAKE_LIMIT, MM, "1.50 mm"),
        (10.3, RATIO_HIGH_LIMIT, INCH, "10.30 to 1"),
    ],
)
def test_one_end_of_a_limit_is_said_alone(value, name, unit, text):
    assert report_text.limit_value_text(value, name, unit) == text


@pytest.mark.parametrize(
    ("bound", "text"),
    [(Bound.EXACT, "93.5 ±4"), (Bound.AT_MOST, "at most 93.5 ±4"), (Bound.AT_LEAST, "at least 93.5 ±4")],
)
def test_a_figure_says_on_which_side_the_truth_may_lie(bound, text):
    assert report_text.figure_text(check(Value(thou(93.5), thou(1.9)), bound=bound), INCH) == text


def test_a_check_without_a_figure_shows_a_dash_for_it_and_for_its_margin():
    empty = check()
    assert (report_text.figure_text(empty, INCH), report_text.margin_text(empty, INCH)) == ("—", "—")
    assert report_text.finding_text(None, QUENCH_CHECK, MM) == "—"


@pytest.mark.parametrize(
    ("figure", "limit", "kind", "text"),
    [
        (thou(93.59), Limit(low=thou(80)), FACE_INTAKE_CHECK, "+13.5"),  # rounded down: never better than it is
        (thou(79.91), Limit(low=thou(80)), FACE_INTAKE_CHECK, "−0.1"),
        (10.149, Limit(low=9.6, high=10.3), RATIO_CHECK, "+0.15"),
        (10.351, Limit(low=9.6, high=10.3), RATIO_CHECK, "−0.06"),
    ],
)
def test_margin_carries_its_sign_and_is_rounded_down(figure, limit, kind, text):
    assert report_text.margin_text(check(Value(figure, 0.01), limit, kind), INCH) == text


def test_the_u_of_a_ratio_is_rounded_up():
    assert report_text.expanded(Value(10.0, 0.0151), RATIO_CHECK, MM) == "0.04"


@pytest.mark.parametrize(
    ("delta", "first", "kind", "text"),
    [
        (Value(thou(97), 0.01), True, FACE_INTAKE_CHECK, "97"),
        (Value(thou(5), 0.0), False, FACE_INTAKE_CHECK, "+5"),
        (Value(-thou(3), 0.0), False, FACE_INTAKE_CHECK, "−3"),
        (Value(0.0, thou(2)), False, FACE_INTAKE_CHECK, "±4"),
        (Value(0.0, 0.0), False, FACE_INTAKE_CHECK, "+0"),
        (Value(612.3, 0.0), False, RATIO_CHECK, "612.30"),
    ],
)
def test_a_rung_is_plain_for_the_reading_signed_for_a_correction_and_doubt_where_it_moves_nothing(
    delta, first, kind, text
):
    assert report_text.correction_text(Correction("x", delta), first=first, kind=kind, unit=INCH) == text


@pytest.mark.parametrize(
    ("changes", "text"),
    [
        ({"cylinders": 1}, "single"),
        ({"cylinders": 2}, "inline twin"),
        ({"cylinders": 2, "layout": Layout.VEE}, "vee twin"),
        ({"cylinders": 2, "layout": Layout.FLAT}, "flat twin"),
        ({"cylinders": 6}, "inline six"),
        ({"cylinders": 8, "layout": Layout.VEE}, "vee eight"),
        ({"cylinders": 4, "layout": Layout.FLAT}, "flat four"),
        ({"intake": inclined(12), "exhaust": inclined(12)}, "two valves at 12° in reliefs"),
        ({"intake": inclined(15.5, count=2), "exhaust": inclined(16.5, count=2)}, "four valves, intake 15.5° in"),
        ({"intake": ValveRow(angle_deg=9.0, relief=Relief.FLAT)}, "intake 9° on a flat crown"),
    ],
)
def test_an_engine_is_said_in_one_line(changes, text):
    assert text in report_text.engine_line(engine(**changes), INCH)


def test_the_same_engine_in_both_units():
    # Two cylinders of pi/4 D^2 S, by hand: 85.6 cu in at 3.750 x 3.875 in, 1402 cc at 95.25 x 98.4 mm.
    assert "3.750 × 3.875 in · 85.6 cu in" in report_text.engine_line(engine(), INCH)
    assert "95.25 × 98.40 mm · 1402 cc" in report_text.engine_line(engine(stroke_mm=98.4), MM)


@pytest.mark.parametrize(
    ("changes", "text"),
    [
        ({}, "gasket 36 compressed"),
        ({"gasket_state": GasketState.SNUGGED}, "new gasket 36 free"),
        ({"gasket_state": GasketState.NONE, "gasket_mm": 0.0}, "no gasket"),
        ({"bolts": Bolts.SNUGGED}, "bolts snugged"),
        ({"lifters": Lifters.UNBLOCKED}, "hydraulic lifters not blocked"),
        ({"springs": Springs.RUNNING}, "running springs"),
        ({"clay": Clay.PUTTY}, "bouncing putty"),
        ({"lash_mm": thou(16)}, "lash 16 at the valve"),
        ({"lash_mm": thou(16), "lash_exhaust_mm": thou(18)}, "exhaust lash 18"),
        ({"rocker_ratio": 1.6}, "rockers 1.6"),
        ({"two_turns": False}, "not two full turns"),
        ({"head": "the old head"}, "the old head, gasket 36"),
    ],
)
def test_every_condition_of_a_mock_up_is_said_in_its_line(changes, text):
    assert text in report_text.mockup_line(mockup(**changes), INCH)


@pytest.mark.parametrize(
    ("bore", "unit", "text"), [(70.0, INCH, "about 100 thou"), (95.0, INCH, "200 to 300 thou"), (95.0, MM, "5.08 to")]
)
def test_clay_is_advised_by_the_bore(bore, unit, text):
    assert text in report_text.clay_advice(engine(bore_mm=bore), unit)


def test_every_summary_of_a_report_has_a_name_over_it():
    report = evaluate(job())
    assert all(summary.kind.label for summary in report.summaries)


@pytest.mark.parametrize(
    ("mm", "sign", "text"),
    [
        (thou(6), DeckSign.DOWN_POSITIVE, "+6"),
        (thou(6), DeckSign.OUT_POSITIVE, "−6"),
        (-thou(2.5), DeckSign.OUT_POSITIVE, "+2.5"),
        (0.0, DeckSign.OUT_POSITIVE, "0"),
    ],
)
def test_a_deck_is_signed_by_the_builds_own_school(mm, sign, text):
    assert format_deck_signed(mm, INCH, sign) == text


@pytest.mark.parametrize(("cc", "text"), [(5.2, "dish 5.2 cc"), (-11.0, "dome 11.0 cc"), (0.04, "flat")])
def test_a_piston_says_whether_it_takes_or_gives(cc, text):
    assert format_piston_volume(cc) == text


def test_volumes_and_angles_are_said_to_the_tenth():
    assert format_volume(63.949) == "63.9"
    assert (format_degrees(1.449), format_degrees(-3.0)) == ("1.4°", "−3°")
