"""The cam: cards, tables, centrelines, lift at the valve, and what is typed for it."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.changes.train import LASH_CHANGED
from mockup.engine.cam import Duration, Events, LiftAt, LobeCard, LobeTable, TableZero
from mockup.engine.mockup import Springs
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.motion.lobes import CardLobe, TableLobe, card_lobe
from mockup.motion.valve_lift import ValveTrain
from mockup.readings.cam_timing import LiftReading
from mockup.readings.tdc import TdcReading
from tests.making import CARD, LOBE, change, engine, job, mockup, thou
from tests.making_readings import degree, table

# --- lobes -----------------------------------------------------------------------------------------------------------


@settings(max_examples=150)
@given(st.floats(4, 14), st.floats(180, 300), st.floats(1.05, 1.6), st.floats(0.1, 0.8), st.floats(2.0, 6.0))
def test_a_cards_durations_are_met_exactly_by_its_lobe_or_refused_in_words(lift, short, longer, low, apart):
    assume(low * apart < lift * 0.6)
    card = (
        LobeCard(lift_mm=lift, durations=(Duration(short * longer, low), Duration(short, low * apart)))
        if (short * longer <= 400)
        else None
    )
    assume(card is not None)
    try:
        lobe = card_lobe(card)
    except FaultsError as error:
        words = str(error)
        assume("No smooth lobe" not in words)
        raise
    for duration in card.durations:
        opens, closes = lobe.flanks_deg(duration.at_mm)
        assert closes - opens == pytest.approx(duration.deg, rel=1e-6)
        assert float(lobe.lift_mm(opens)) == pytest.approx(duration.at_mm, rel=1e-6)


def test_a_third_duration_is_met_where_it_can_be_and_said_where_not():
    third = card_lobe(LOBE).flanks_deg(thou(35))[1] * 2
    met = card_lobe(replace(LOBE, durations=(*LOBE.durations[:1], Duration(226.0, thou(100)))))
    fits = met.flanks_deg(thou(45))[1] * 2
    three = LobeCard(
        lift_mm=thou(300), durations=(Duration(264.0, thou(20)), Duration(fits, thou(45)), Duration(226.0, thou(100)))
    )
    assert abs(card_lobe(three).third_missed_deg) < 1e-6
    off = replace(three, durations=(three.durations[0], Duration(235.0, thou(45)), three.durations[2]))
    assert abs(card_lobe(off).third_missed_deg) > 2
    assert third > 226


def test_one_duration_alone_gives_the_usual_shape():
    lobe = card_lobe(LobeCard(lift_mm=8.0, durations=(Duration(220.0, 1.27),)))
    assert (lobe.a, lobe.b) == (2.6, 3.5)
    assert lobe.flanks_deg(1.27)[1] == pytest.approx(110.0)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"lift_mm": 0.1}, "lobe lift"),
        ({"durations": ()}, "One to three"),
        ({"durations": (Duration(226.0, thou(20)), Duration(264.0, thou(50)))}, "stays longer"),
        ({"durations": (Duration(264.0, thou(40)), Duration(226.0, thou(50)))}, "same thing twice"),
        ({"durations": (Duration(264.0, thou(400)),)}, "below the lobe"),
        ({"durations": (Duration(900.0, thou(20)),)}, "60 to 400"),
    ],
)
def test_a_lobe_card_that_contradicts_itself_is_refused(changes, words):
    with pytest.raises(FaultsError, match=words):
        replace(LOBE, **changes)


def test_a_table_is_followed_between_its_points_and_shut_beyond_its_ends():
    lobe, fine = TableLobe(table()), table(step=1)
    x = np.array(fine.angles_deg)
    assert np.abs(lobe.lift_mm(x - lobe.middle) - np.array(fine.lifts_mm)).max() < thou(0.5)
    assert float(lobe.lift_mm(200.0)) == 0.0
    assert not lobe.coarse
    assert TableLobe(table(step=20)).coarse


def test_a_tables_middle_is_midway_at_fifty_or_at_its_highest():
    shifted = table()
    moved = replace(shifted, angles_deg=tuple(angle + 7 for angle in shifted.angles_deg))
    assert TableLobe(moved).middle == pytest.approx(7.0, abs=0.05)
    assert TableLobe(replace(moved, zero=TableZero.MAXIMUM)).middle == pytest.approx(7.0, abs=0.3)


def test_lift_measured_at_the_valve_is_taken_back_to_the_lobe():
    assert TableLobe(table(at=LiftAt.VALVE), 1.5).lift_max_mm == pytest.approx(6.0, abs=0.01)


@pytest.mark.parametrize(
    ("angles", "lifts", "words"),
    [
        ((0, 10, 5, 20, 30), (0, 1, 2, 1, 0), "go up from row to row"),
        ((0, 10, 10, 20, 30), (0, 1, 2, 1, 0), "occurs twice"),
        ((0, 10, 20, 30, 40), (0, 1, -2, 1, 0), "never negative"),
        ((0, 10, 20, 30, 40), (0, 1, 9, 1, 0), "jumps"),
        ((-2, -1, 0, 1, 2), (0, 1, 2, 1, 0), "radians"),
        ((0, 10, 20), (0, 1, 0), "From 5"),
        ((0, 20, 40, 60, 80, 100), (1.0, 1.3, 1.6, 1.3, 0.8, 0.4), "the lobe beyond it"),
        ((0, 10, 20, 30, 40), (0, 0.1, 0.2, 0.1, 0), "0.5 mm"),
        ((0, 10, float("nan"), 30, 40), (0, 1, 2, 1, 0), "within a turn"),
    ],
)
def test_a_table_that_is_no_lobe_is_refused_at_its_row(angles, lifts, words):
    with pytest.raises(FaultsError, match=words):
        LobeTable(side=Side.INTAKE, angles_deg=tuple(map(float, angles)), lifts_mm=tuple(map(float, lifts)))


def test_cam_degrees_and_coarse_steps_are_asked_about():
    halved = table(angles_deg=tuple(float(angle) / 2 for angle in range(-130, 131, 5)))
    texts = [question.text for question in evaluate(job(lobe_tables=(halved,), cam_card=CARD)).questions]
    assert any("cam degrees" in text for text in texts)
    coarse = evaluate(job(lobe_tables=(table(step=13),), cam_card=CARD))
    assert any("more than 10°" in question.text for question in coarse.questions)
    high = evaluate(job(lobe_tables=(table(lift=20.0),), cam_card=CARD, engine=engine(rocker_ratio=1.8)))
    assert any("would lift" in question.text for question in high.questions)


# --- timing ----------------------------------------------------------------------------------------------------------


@given(st.floats(90, 120), st.floats(100, 118), st.floats(-20, 20))
def test_advancing_and_retarding_by_the_same_is_the_identity(icl, lsa, by):
    train = ValveTrain(side=Side.INTAKE, lobe=card_lobe(LOBE), centreline_deg=icl, ratio=1.5)
    x = np.linspace(-360, 360, 100)
    back = train.advanced(by).advanced(-by)
    assert back.lift_mm(x) == pytest.approx(train.lift_mm(x), abs=1e-9)
    card = replace(CARD, icl_deg=icl, lsa_deg=lsa)
    # Identities: LSA = (ICL + ECL) / 2, advance = LSA - ICL = (ECL - ICL) / 2.
    assert (card.icl_deg + card.ecl_deg) / 2 == pytest.approx(lsa)
    assert card.advance_deg == pytest.approx((card.ecl_deg - card.icl_deg) / 2)


def test_equal_lift_either_side_gives_the_centreline_freed_of_the_wheels_error():
    late = (TdcReading(key="t", before_deg=28.0, after_deg=31.0),)
    read = (degree(Side.INTAKE, 70.0, 149.0, wheel_set=False), degree(Side.EXHAUST, -150.0, -71.0, wheel_set=False))
    cam = evaluate(job(cam_card=CARD, tdc=late, degrees=read)).cam
    assert cam.sides[Side.INTAKE].shown_deg == pytest.approx(108.0)  # read 109.5, wheel 1.5 late
    assert cam.sides[Side.EXHAUST].shown_deg == pytest.approx(112.0)  # true ECL = read + error
    assert cam.sides[Side.INTAKE].late_deg == pytest.approx(2.0)
    assert cam.advance_deg == pytest.approx(2.0)
    set_right = evaluate(job(cam_card=CARD, tdc=late, degrees=(degree(Side.INTAKE, 70.0, 149.0),))).cam
    assert set_right.sides[Side.INTAKE].shown_deg == pytest.approx(109.5)


def test_middles_at_several_lifts_say_how_asymmetric_the_lobe_is():
    read = (degree(Side.INTAKE, 70.0, 146.0), degree(Side.INTAKE, 34.0, 184.0, lift=150))
    side = evaluate(job(cam_card=CARD, degrees=read)).cam.sides[Side.INTAKE]
    assert side.degreed.spread_deg == pytest.approx(1.0)
    assert side.centreline.value == pytest.approx(108.5)


def test_what_was_degreed_replaces_the_card_and_a_table_the_cards_lobe():
    plain = evaluate(job(cam_card=CARD)).cam.sides[Side.INTAKE]
    assert (plain.centreline.value, plain.train.lobe.measured) == (106.0, False)
    known = job(cam_card=CARD, lobe_tables=(table(),), degrees=(degree(Side.INTAKE, 70.0, 146.0),))
    side = evaluate(known).cam.sides[Side.INTAKE]
    assert (side.centreline.value, side.train.lobe.measured) == (108.0, True)
    assert side.centreline.u < plain.centreline.u


def test_steps_say_where_the_cam_would_stand():
    moves = evaluate(job(cam_card=CARD, cam_steps_deg=(4.0,))).cam.moves
    assert [(move.step_deg, move.icl_deg, move.ecl_deg) for move in moves] == [
        (4.0, 102.0, 118.0),
        (-4.0, 110.0, 110.0),
    ]


def test_a_card_whose_events_do_not_fit_its_durations_is_asked_about():
    half = card_lobe(LOBE).flanks_deg(thou(50))[1]
    fits = Events(
        at_mm=thou(50),
        intake_opens_deg=106 - half,
        intake_closes_deg=106 + half,
        exhaust_opens_deg=-114 - half,
        exhaust_closes_deg=-114 + half,
    )
    assert not evaluate(job(cam_card=replace(CARD, events=fits))).cam.contradictions
    off = replace(fits, intake_closes_deg=fits.intake_closes_deg + 6)
    report = evaluate(job(cam_card=replace(CARD, events=off)))
    (one,) = report.cam.contradictions
    assert (one.what, one.given_deg - one.computed_deg) == ("intake closes", pytest.approx(6.0))
    assert any("contradicts itself" in question.text for question in report.questions)


def test_where_the_intake_closes_is_told_for_the_ratio_counted_from_it():
    closes = evaluate(job(cam_card=CARD)).cam.intake_closes_abdc_deg
    assert closes == pytest.approx(106 + 264 / 2 - 180)
    assert evaluate(job()).cam.intake_closes_abdc_deg is None


def test_a_cam_that_was_not_degreed_is_asked_for_and_stops_nothing():
    report = evaluate(job(cam_card=CARD))
    assert any(step.station is Station.CAM for step in report.steps)
    assert report.verdict == "clear"


@pytest.mark.parametrize(
    "wrong",
    [
        {"opening_deg": 146.0, "closing_deg": 70.0},
        {"opening_deg": -150.0, "closing_deg": -74.0},  # an exhaust's angles given for an intake
        {"opening_deg": 430.0, "closing_deg": 500.0},  # set to firing TDC
        {"lift_mm": 0.0},
    ],
)
def test_angles_that_cannot_be_are_refused(wrong):
    with pytest.raises(FaultsError):
        replace(degree(Side.INTAKE, 70.0, 146.0), **wrong)


# --- what arrives ----------------------------------------------------------------------------------------------------


def test_the_ratio_that_acts_counts_the_lash_and_running_springs_show_the_bend():
    place = Place(1, Side.INTAKE)
    under = (mockup(lash_mm=thou(10)), mockup(key="B", springs=Springs.RUNNING))
    read = (
        LiftReading(key="a", mockup="A", place=place, lift_mm=thou(440)),
        LiftReading(key="b", mockup="B", place=place, lift_mm=thou(430)),
    )
    free, loaded = evaluate(job(cam_card=CARD, mockups=under, lifts=read)).arrived
    assert free.ratio == pytest.approx(1.5)  # (440 + 10) / 300
    assert free.bend_mm is None
    assert loaded.bend_mm == pytest.approx(thou(20))


@pytest.mark.parametrize(("lobe", "ratio", "valve"), [(0.338, 1.6, 0.541), (0.329, 1.6, 0.526)])
def test_lobe_lift_times_ratio_arrives_at_the_valve(lobe, ratio, valve):
    # Common practice, no source: 0.338 x 1.6 = 0.541, 0.329 x 1.6 = 0.526.
    train = ValveTrain(side=Side.INTAKE, lobe=CardLobe(lobe, 130.0, 2.6, 3.5), centreline_deg=108.0, ratio=ratio)
    assert train.lift_max_mm == pytest.approx(valve, abs=5e-4)


@pytest.mark.parametrize(("at", "per"), [(LiftAt.LOBE, 1.0), (LiftAt.VALVE, 1.6)])
def test_a_measured_lobe_lifts_at_every_row_what_was_measured_there(at, per):
    measured = table(at=at)
    lobe = TableLobe(measured, 1.6)
    assert lobe.lift_mm(np.array(measured.angles_deg)) * per == pytest.approx(measured.lifts_mm, abs=1e-9)
    assert lobe.u_mm * per == pytest.approx(measured.u_mm)


def test_without_a_card_a_measured_lobe_runs_with_no_lash_but_what_a_change_gave_it():
    measured = {"lobe_tables": (table(),), "degrees": (degree(Side.INTAKE, 70.0, 146.0),)}
    more = change(LASH_CHANGED, 6, side=Side.INTAKE)
    for changes, lash in (((), 0.0), ((more,), thou(6))):
        train = evaluate(job(**measured, changes=changes)).cam.sides[Side.INTAKE].train
        assert train.lash_mm == pytest.approx(lash)
        assert train.lift_max_mm == pytest.approx(9.0 * train.ratio - lash, abs=1e-3)


def test_the_flanks_of_a_lobe_that_is_not_symmetric_are_told_from_its_own_middle():
    angles = tuple(range(-60, 161, 10))
    lifts = tuple(8 * (1 - (abs(a) / (60 if a < 0 else 160)) ** 2) ** 2 for a in angles)
    lobe = TableLobe(LobeTable(side=Side.INTAKE, angles_deg=angles, lifts_mm=lifts))
    for at in (0.5, 1.27, 4.0):
        opens, closes = lobe.flanks_deg(at)
        assert opens < 0 < closes
        assert lobe.lift_mm([opens, closes]) == pytest.approx([at, at], abs=1e-6)
    # The middle lies midway between the flanks at 50 thou, and so well behind the highest point.
    assert sum(lobe.flanks_deg(thou(50))) == pytest.approx(0.0, abs=0.05)
    assert lobe.middle > 30
