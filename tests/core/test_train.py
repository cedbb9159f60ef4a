"""Pushrods, wipe patterns, and what the conditions of a mock-up do: each rule by itself."""

import math
from dataclasses import replace

import pytest

from mockup.base.faults import FaultsError
from mockup.checks.before_turning import before_turning
from mockup.checks.check import Trust
from mockup.checks.conditions import grounds_of
from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import Clay, Fasteners, LashAt, Lifters, PistonsIn, Springs
from mockup.engine.pushrods import Lifter, PushrodChoice
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.fit.pushrod_figures import length_options
from mockup.limits.judge import Bound, State
from mockup.quantity.typed import LengthError
from mockup.quantity.typed_train import Checker, parse_pushrod, parse_wipe
from mockup.quantity.value import Unit
from mockup.readings.pushrods import WipeReading
from tests.making import CARD, cut, engine, inclined, job, mockup, thou
from tests.making_readings import PLACE, degree, table, trial

FIFTY = PushrodChoice(low_mm=thou(20), aim_mm=thou(60), high_mm=thou(80), step_mm=thou(50))


def test_the_trades_pushrod_is_found_and_its_neighbours_offered():
    # Common practice, no source: 11.5 turns x 0.050 + 6.800 = 7.375; + 0.060 preload = 7.435; sold in 0.050 steps:
    # 7.400 gives 0.025 of preload, 7.450 gives 0.075.
    zero = trial().length_mm
    assert zero / 25.4 == pytest.approx(7.375)
    assert FIFTY.target_mm(zero, 1.6) / 25.4 == pytest.approx(7.435)
    short, long = length_options(FIFTY, zero, 1.6)
    assert (short.length_mm / 25.4, short.gives_mm / thou(1)) == pytest.approx((7.400, 25))
    assert (long.length_mm / 25.4, long.gives_mm / thou(1)) == pytest.approx((7.450, 75))
    assert short.fits
    assert long.fits


def test_lengths_on_the_shelf_stand_beside_the_makers():
    lengths = [round(one.length_mm / 25.4, 3) for one in length_options(FIFTY, trial().length_mm, 1.6, [7.42 * 25.4])]
    assert lengths == [7.400, 7.420, 7.450]
    assert length_options(replace(FIFTY, step_mm=0.0), 187.0, 1.6) == ()


def test_solid_lifters_want_their_lash_at_the_pushrod_side():
    solid = PushrodChoice(lifter=Lifter.SOLID, low_mm=thou(10), aim_mm=thou(16), high_mm=thou(24), step_mm=thou(10))
    zero = 7.375 * 25.4
    assert (zero - solid.target_mm(zero, 1.6)) / thou(1) == pytest.approx(10)  # lash / ratio
    assert solid.left_mm(zero - thou(10), zero, 1.6) == pytest.approx(thou(16))


def test_a_gasket_or_deck_changed_afterwards_moves_the_length_and_says_so():
    lean = replace(FIFTY, lean_deg=30.0)
    gasket = FinalGasket(compressed_mm=thou(46), bore_mm=97.0)
    report = evaluate(job(pushrods=(trial(),), pushrod_choice=lean, final_gasket=gasket, changes=(cut(8),)))
    figure = report.pushrods[PLACE]
    assert (figure.zero.value - trial().length_mm) / thou(1) == pytest.approx((10 - 8) * math.cos(math.radians(30)))
    assert figure.carried


def test_trials_are_averaged_and_their_spread_shown():
    figure = evaluate(job(pushrods=(trial(11.4), trial(11.6)))).pushrods[PLACE]
    assert figure.spread_mm == pytest.approx(thou(10))
    assert figure.zero.value / 25.4 == pytest.approx(7.375)


def test_pushrods_chosen_are_judged_by_their_window():
    chosen = replace(FIFTY, chosen_mm=7.425 * 25.4)
    check, *untried = evaluate(job(pushrods=(trial(),), pushrod_choice=chosen)).of_kind(PUSHROD_CHECK)
    assert [(one.label, one.required, one.state) for one in untried] == [
        (label, True, State.NOT_MEASURED) for label in ("Intake 2 preload", "Exhaust 1 preload", "Exhaust 2 preload")
    ]
    assert check.figure.value == pytest.approx(thou(50))
    assert check.state is State.CLEAR
    short = replace(chosen, chosen_mm=7.350 * 25.4)
    report = evaluate(job(pushrods=(trial(),), pushrod_choice=short))
    assert report.of_kind(PUSHROD_CHECK)[0].state is State.SHORT
    assert report.verdict == "not clear"


@pytest.mark.parametrize(
    "wrong", [{"turns": -1}, {"turns": 99}, {"pitch_mm": 0}, {"closed_mm": 5}, {"closed_mm": math.nan}]
)
def test_a_trial_that_cannot_be_is_refused(wrong):
    with pytest.raises(FaultsError):
        trial(**wrong)


@pytest.mark.parametrize(
    "wrong", [{"low_mm": 2.0}, {"aim_mm": 9.0}, {"step_mm": -1}, {"lean_deg": 90}, {"chosen_mm": 3.0}]
)
def test_a_choice_that_cannot_be_is_refused(wrong):
    with pytest.raises(FaultsError):
        replace(FIFTY, **wrong)


def test_trials_are_typed_in_turns_or_as_a_length():
    checker = Checker(6.8 * 25.4, thou(50))
    turned = parse_pushrod("11.5 turns", Unit.INCH, checker)
    assert (turned.closed_mm + turned.turns * turned.pitch_mm) / 25.4 == pytest.approx(7.375)
    assert parse_pushrod("7.375", Unit.INCH, checker).closed_mm == pytest.approx(7.375 * 25.4)
    with pytest.raises(LengthError, match="closed length"):
        parse_pushrod("11.5 t", Unit.INCH, Checker(None, thou(50)))


def test_a_wipe_pattern_is_typed_and_said_to_be_centred_or_not():
    typed = parse_wipe("120 to 210 of 342, not square", Unit.INCH)
    assert typed.square is False
    wipe = WipeReading(
        key="w", mockup="A", place=PLACE, start_mm=typed.start_mm, end_mm=typed.end_mm, tip_mm=typed.tip_mm
    )
    assert wipe.width_mm == pytest.approx(thou(90))
    assert wipe.off_centre_mm == pytest.approx(thou(-6))
    assert wipe.centred
    assert not replace(wipe, start_mm=thou(10)).centred
    for bad in ("120", "120 to 210", "x to 2 of 3", "210 to of 342"):
        with pytest.raises(LengthError):
            parse_wipe(bad, Unit.INCH)
    with pytest.raises(FaultsError):
        replace(wipe, end_mm=thou(400))


# --- the conditions of a mock-up: each rule by itself ----------------------------------------------------------------


def governing(side=Side.INTAKE, **conditions):
    kind = FACE_INTAKE_CHECK if side is Side.INTAKE else FACE_EXHAUST_CHECK
    found = evaluate(job(mockups=(mockup(**conditions),), engine=engine(rocker_ratio=1.6)))
    return found.of_kind(kind)[0].governing


def test_a_careful_mock_up_is_sound():
    assert governing(pistons=PistonsIn.RIGHT).trust is Trust.SOUND


@pytest.mark.parametrize(("ratio", "trust"), [(1.5, Trust.OPTIMISTIC), (1.7, Trust.SOUND), (1.6, Trust.SOUND)])
def test_rockers_of_less_ratio_read_large_and_of_more_read_small(ratio, trust):
    found = governing(rocker_ratio=ratio)
    assert found.trust is trust
    assert bool(found.cautions) is (ratio != 1.6)


@pytest.mark.parametrize(
    ("side", "advance", "trust"),
    [
        (Side.INTAKE, 4.0, Trust.SOUND),  # the intake stood nearer than it will run
        (Side.INTAKE, -4.0, Trust.OPTIMISTIC),
        (Side.EXHAUST, 4.0, Trust.OPTIMISTIC),
        (Side.EXHAUST, -4.0, Trust.SOUND),
    ],
)
def test_a_cam_moved_since_flatters_one_side_and_not_the_other(side, advance, trust):
    found = governing(side, cam_advance_deg=advance)
    assert found.trust is trust
    assert any("cam stood" in caution for caution in found.cautions)


def test_pistons_in_backwards_prove_nothing():
    found = governing(pistons=PistonsIn.REVERSED)
    assert (found.trust, found.bound) == (Trust.OPTIMISTIC, Bound.AT_MOST)


def test_lash_caps_left_out_are_said_and_nothing_more():
    found = governing(caps_as_run=False)
    assert found.trust is Trust.SOUND
    assert any("Lash caps" in caution for caution in found.cautions)


def test_the_exhausts_own_lash_comes_off_the_exhaust():
    conditions = {"lash_mm": thou(10), "lash_exhaust_mm": thou(14)}
    assert governing(Side.INTAKE, **conditions).figure.value == pytest.approx(thou(85))
    assert governing(Side.EXHAUST, **conditions).figure.value == pytest.approx(thou(101))
    at_pushrod = governing(Side.EXHAUST, lash_at=LashAt.PUSHROD, **conditions)
    assert at_pushrod.figure.value == pytest.approx(thou(115 - 14 * 1.6))


def test_with_a_measured_lobe_no_more_lash_comes_off_than_the_lobe_has_lifted():
    # A lobe so far from overlap that its valve hardly opens there has taken up hardly any lash.
    late = degree(Side.INTAKE, 100.0, 176.0)
    plain = {"mockups": (mockup(lash_mm=thou(60)),), "engine": engine(intake=inclined(0.0))}
    whole = evaluate(job(**plain)).of_kind(FACE_INTAKE_CHECK)[0].figure.value
    known = job(lobe_tables=(table(lift=4.0),), cam_card=CARD, degrees=(late,), **plain)
    part = evaluate(known).of_kind(FACE_INTAKE_CHECK)[0].figure.value
    assert thou(95) - thou(60) == pytest.approx(whole)
    assert whole < part <= thou(95)


@pytest.mark.parametrize(
    "wrong", [{"rocker_ratio": 9.0}, {"cam_advance_deg": 90.0}, {"lash_exhaust_mm": -1.0}, {"shims_mm": 99.0}]
)
def test_conditions_that_cannot_be_are_refused(wrong):
    with pytest.raises(FaultsError):
        mockup(**wrong)


def test_the_list_before_turning_asks_what_the_conditions_make_worth_asking():
    keys = {item.key for item in before_turning(mockup())}
    assert {"plugs", "resistance", "dowels", "blocked", "springs"} <= keys
    other = mockup(
        lifters=Lifters.UNBLOCKED, springs=Springs.RUNNING, fasteners=Fasteners.STRETCH,
        gasket_state=GasketState.NONE, gasket_mm=0.0,
    )  # fmt: skip
    assert {"bleeding", "running", "stretch", "metal"} <= {item.key for item in before_turning(other)}


@pytest.mark.parametrize(
    ("conditions", "side", "said"),
    [
        ({}, Side.INTAKE, []),
        ({"springs": Springs.RUNNING}, None, ["Running springs: flex is already spent"]),
        ({"lifters": Lifters.UNBLOCKED}, None, ["Hydraulic lifter not blocked"]),
        ({"two_turns": False}, None, ["Not two full turns"]),
        ({"clay": Clay.DOUGH}, None, ["Soft dough springs back"]),
        ({"clay": Clay.PUTTY}, None, ["Bouncing putty flows flat"]),
        ({"caps_as_run": False}, None, ["Lash caps were not as it will run"]),
        ({"rocker_ratio": 1.5}, None, ["Rockers of 1.5 were fitted instead of 1.6: less lift"]),
        ({"rocker_ratio": 1.7}, None, ["Rockers of 1.7 were fitted instead of 1.6: more lift"]),
        ({"rocker_ratio": 1.6}, None, []),
        (
            {"cam_advance_deg": 2.0},
            Side.INTAKE,
            ["The cam stood 2° in advance of where it will run; this reads small."],
        ),
        (
            {"cam_advance_deg": 2.0},
            Side.EXHAUST,
            ["The cam stood 2° in advance of where it will run, so this reads la"],
        ),
        ({"cam_advance_deg": -3.0}, Side.INTAKE, ["The cam stood 3° behind where it will run, so this reads large."]),
        ({"cam_advance_deg": -3.0}, Side.EXHAUST, ["The cam stood 3° behind where it will run; this reads small."]),
        ({"cam_advance_deg": -3.0}, None, ["The cam stood 3° behind where it will run"]),
        ({"pistons": PistonsIn.REVERSED}, None, ["Pistons were in backwards"]),
        ({"pistons": PistonsIn.RIGHT}, None, []),
        ({"clay": Clay.PUTTY, "lifters": Lifters.UNBLOCKED}, None, ["Hydraulic lifter", "Bouncing putty"]),
    ],
)
def test_every_condition_gives_its_own_caution_and_no_other(conditions, side, said):
    found = grounds_of(mockup(**conditions), 1.6, side).cautions
    assert [one[: len(start)] for one, start in zip(found, said, strict=True)] == said


def test_pistons_that_run_reversed_and_stood_the_right_way_round_are_cautioned():
    found = grounds_of(mockup(pistons=PistonsIn.RIGHT), reversed_runs=True)
    assert (found.trust, len(found.cautions)) == (Trust.OPTIMISTIC, 1)
    assert grounds_of(mockup(pistons=PistonsIn.REVERSED), reversed_runs=True).cautions == ()


def test_with_a_lobe_other_rockers_and_another_cam_position_are_counted_and_not_cautioned():
    stood = mockup(rocker_ratio=1.5, cam_advance_deg=2.0)
    found = grounds_of(stood, 1.6, Side.EXHAUST, lobe_known=True)
    assert (found.trust, found.cautions) == (Trust.SOUND, ())
