"""What was changed since a reading: each kind moves only what it touches."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mockup.advice.progress import Progress, progress_of
from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.changes.change import Change
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.since import as_changed
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.changes.valves import VALVES_CHANGED, VALVES_SUNK
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.context import EvaluationContext
from mockup.engine.gasket import FinalGasket
from mockup.engine.pushrods import Lifter, PushrodChoice
from mockup.engine.valves import Relief, Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.plans.what_if import done
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.volumes import VolumePart, VolumeReading
from mockup.report import Verdict
from tests.making import CARD, change, clay, deck, engine, inclined, job, thou, volumes, with_readings
from tests.making_readings import degree, sweep, trial

COS = math.cos(math.radians(20.0))
TAN = math.tan(math.radians(20.0))
EDGE = clay(50, gap=Gap.RADIAL)


def flat(**more):
    """A two whose valves lean 20 degrees over flat crowns: no factor is one."""
    leaning = engine(intake=inclined(20.0, Relief.FLAT), exhaust=inclined(20.0, Relief.FLAT), rocker_ratio=1.5)
    return job(**({"engine": leaning, "clay": (*job().of(ClayReading), EDGE)} | more))


def moved(kind, amount, label="Intake 1", before=None, **changes):
    """What a change makes of one check's figure [thou], and the check afterwards."""
    plain = before or flat()
    found = [
        next(check for check in evaluate(one).checks if check.label == label)
        for one in (plain, replace(plain, changes=(*plain.changes, change(kind, amount, **changes))))
    ]
    return (found[1].figure.value - found[0].figure.value) / thou(1), found[1]


@pytest.mark.parametrize(
    ("kind", "amount", "label", "gained", "more"),
    [
        (HEAD_CUT, 10, "Intake 1", -10 / COS, {}),
        (DECK_CUT, 10, "Intake 1", -10 / COS, {}),
        (RELIEF_DEEPENED, 30, "Intake 1", 30, {"side": Side.INTAKE}),
        (RELIEF_DEEPENED, 30, "Exhaust 1", 0, {"side": Side.INTAKE}),
        (VALVES_SUNK, 8, "Exhaust 1", 8, {"side": Side.EXHAUST}),
        (VALVES_CHANGED, 40, "Intake 1", -20 * TAN, {"side": Side.INTAKE}),
        (VALVES_CHANGED, 40, "Intake 1 edge", -20, {"side": Side.INTAKE}),
        (RELIEF_WIDENED, 15, "Intake 1 edge", 15, {"side": Side.INTAKE}),
        (RELIEF_WIDENED, 15, "Intake 1", 0, {"side": Side.INTAKE}),
        (HEAD_CUT, 10, "Quench 1", 0, {}),
        (DECK_CUT, 2, "Quench 1", -2, {}),
    ],
)
def test_a_change_moves_what_it_touches_by_the_geometry(kind, amount, label, gained, more):
    found, check = moved(kind, amount, label, **more)
    assert found == pytest.approx(gained, abs=1e-6)
    assert check.read_again == bool(gained)


def test_a_larger_valve_in_a_parallel_relief_keeps_its_face_clearance_and_wants_reading_again():
    parallel = flat(engine=engine(intake=inclined(20.0), exhaust=inclined(20.0)))
    found, check = moved(VALVES_CHANGED, 40, before=parallel, side=Side.INTAKE)
    assert found == pytest.approx(0)
    assert check.read_again
    assert "other valves" in check.carried[0]


def test_what_was_read_again_is_no_longer_carried():
    cut = change(HEAD_CUT, 10)
    again = replace(clay(70), key="again", after=1)
    check = evaluate(flat(changes=(cut,), clay=(*flat().of(ClayReading), again))).of_kind(FACE_INTAKE_CHECK)[0]
    assert not check.read_again
    assert check.governing.evidence == ("again",)


def test_what_is_decided_is_done_before_what_it_touches_is_read_again():
    both = (change(RELIEF_DEEPENED, 20, side=Side.INTAKE), change(HEAD_CUT, 5, order=None))
    steps = [step for step in evaluate(job(changes=both, tdc=())).steps if step.station is not Station.TDC]
    assert steps[0].station is Station.RIGHT
    assert steps[0].text == "Decided and not done: head cut. Mark each once it is."
    assert any(step.station is Station.CLAY for step in steps)


def test_a_fresh_reading_by_another_method_stands_before_an_older_one_that_was_carried():
    cut = change(RELIEF_DEEPENED, 20, side=Side.INTAKE)
    read = tuple(sweep(angle, down) for angle, down in ((0, 90), (5, 78), (10, 76), (15, 85), (20, 110)))
    before = evaluate(job(sweeps=read, changes=(cut,))).of_kind(FACE_INTAKE_CHECK)[0]
    assert before.read_again
    clayed = (*job().of(ClayReading), clay(118, after=1))
    after = evaluate(job(sweeps=read, changes=(cut,), clay=clayed)).of_kind(FACE_INTAKE_CHECK)[0]
    assert not after.read_again
    assert after.figure.value == pytest.approx(thou(118))


def test_a_clear_build_is_unfinished_until_what_was_touched_is_read_again():
    report = evaluate(job(changes=(change(RELIEF_DEEPENED, 5, side=Side.INTAKE),)))
    assert {check.state for check in report.checks if check.required} == {State.CLEAR}
    assert report.verdict is Verdict.UNFINISHED
    asked = {step.station: step.text for step in report.steps}
    assert "Intake 1, Intake 2; relief deeper" in asked[Station.CLAY]
    assert "piston volume again" in asked[Station.VOLUMES]
    stale = {stop.station for stop in progress_of(report) if stop.progress is Progress.STALE}
    assert stale == {Station.CLAY, Station.VOLUMES}


# --- the cam and the rockers -----------------------------------------------------------------------------------------


def test_advancing_the_cam_brings_the_intake_nearer_and_lets_the_exhaust_go():
    known = flat(cam_card=CARD)
    nearer, check = moved(CAM_MOVED, 4, before=known)
    away, _ = moved(CAM_MOVED, 4, "Exhaust 1", before=known)
    assert nearer < -2 < 2 < away
    assert [correction.text for correction in check.governing.corrections][-1] == "cam advanced 4° since it was read"
    assert moved(CAM_MOVED, 4, "Exhaust 1", before=known, side=Side.INTAKE)[0] == 0


def test_other_rockers_cost_their_ratio_times_the_lobe_at_the_closest_point_and_not_at_full_lift():
    # Recomputed directly: k P - L over the crank at both ratios, by plain numpy.
    known = flat(cam_card=CARD)
    found, _ = moved(ROCKERS_CHANGED, 0.1, before=known)
    report = evaluate(known)
    train, t = report.cam.sides[Side.INTAKE].train, np.linspace(-60, 60, 24001)
    room = [
        report.crank.travel_mm(t) / COS - ratio * train.lobe.lift_mm(t - train.centreline_deg) for ratio in (1.5, 1.6)
    ]
    assert found == pytest.approx((room[1].min() - room[0].min()) / thou(1), abs=0.1)
    at = t[int(np.argmin(room[0]))]
    assert -found == pytest.approx(0.1 * float(train.lobe.lift_mm(at - train.centreline_deg)) / thou(1), rel=0.1)
    assert -found < 0.35 * 0.1 * train.lobe.lift_max_mm / thou(1)


def test_a_cam_moved_there_and_back_leaves_the_figure_and_adds_doubt():
    back = (change(CAM_MOVED, 4), change(CAM_MOVED, -4, order=2, key="back"))
    plain, after = (evaluate(flat(cam_card=CARD, changes=some)) for some in ((), back))
    was, now = (one.of_kind(FACE_INTAKE_CHECK)[0].figure for one in (plain, after))
    assert now.value == pytest.approx(was.value, abs=1e-9)
    assert now.u > was.u


def test_without_a_lobe_a_moved_cam_makes_the_reading_say_nothing():
    report = evaluate(flat(changes=(change(CAM_MOVED, 4),)))
    check = report.of_kind(FACE_INTAKE_CHECK)[0]
    assert check.figure is None
    assert "enter its card" in check.governing.cautions[-1]


def test_the_centreline_moves_with_the_cam_until_it_is_degreed_again():
    sides = (degree(Side.INTAKE, 68.0, 144.0), degree(Side.EXHAUST, -152.0, -76.0))
    moved_cam = replace(flat(cam_card=CARD, degrees=sides), changes=(change(CAM_MOVED, 4),))
    report = evaluate(moved_cam)
    assert [round(report.cam.sides[side].shown_deg, 6) for side in Side] == [102.0, 118.0]
    assert any(step.text.startswith("Degree the cam again") for step in report.steps)
    again = evaluate(with_readings(moved_cam, degrees=(*sides, degree(Side.INTAKE, 66.0, 143.0, after=1, key="new"))))
    assert again.cam.sides[Side.INTAKE].shown_deg == pytest.approx(104.5)
    assert evaluate(flat(cam_card=CARD, changes=(change(CAM_MOVED, 4),))).cam.sides[Side.INTAKE].shown_deg == 102.0


# --- volumes, pushrods, gaskets --------------------------------------------------------------------------------------


def test_a_head_cut_takes_from_the_chamber_and_a_relief_gives_to_the_piston_until_they_are_filled_again():
    plain = evaluate(flat())
    cut = evaluate(flat(changes=(change(HEAD_CUT, 20), change(RELIEF_DEEPENED, 40, 2, side=Side.INTAKE))))
    chamber, piston = (cut.parts[part][1] for part in VolumePart)
    area = math.pi / 4 * 95.25**2 / 1000
    assert chamber.volume.value == pytest.approx(70 - 0.8 * area * thou(20))
    assert piston.volume.value > plain.parts[VolumePart.PISTON][1].volume.value
    assert chamber.carried == ("head cut since it was filled",)
    ratio = cut.of_kind(RATIO_CHECK)[0]
    assert ratio.read_again
    assert ratio.figure.u > plain.of_kind(RATIO_CHECK)[0].figure.u
    filled = VolumeReading(key="again", part=VolumePart.CHAMBER, cc=68.9, after=1)
    again = evaluate(flat(changes=(change(HEAD_CUT, 20),), volumes=(*volumes(), filled)))
    assert again.parts[VolumePart.CHAMBER][1].volume.value == pytest.approx(68.9)
    assert not again.parts[VolumePart.CHAMBER][1].carried


def test_a_head_cut_lengthens_the_preload_and_rockers_ask_for_the_length_again():
    choice = PushrodChoice(
        lifter=Lifter.HYDRAULIC, low_mm=thou(20), aim_mm=thou(40), high_mm=thou(80), chosen_mm=thou(9040)
    )
    tried = trial(closed_mm=thou(9000), turns=0)
    both = flat(pushrods=(tried,), pushrod_choice=choice)
    assert moved(HEAD_CUT, 10, "Intake 1 preload", before=both)[0] == pytest.approx(10)
    _, check = moved(ROCKERS_CHANGED, 0.1, "Intake 1 preload", before=replace(both, cam_card=CARD))
    assert check.read_again


def test_a_gasket_put_in_as_a_step_is_carried_by_arithmetic_and_needs_no_reading_again():
    thick = FinalGasket(name="thick", compressed_mm=thou(51), bore_mm=97.0)
    after = done(job(), Change(key="g", kind=GASKET_CHANGED, gasket=thick))
    assert after.final_gasket == thick
    assert after.changes[0].front_mm == pytest.approx(thou(15))
    check = evaluate(after).of_kind(FACE_INTAKE_CHECK)[0]
    assert check.figure.value == pytest.approx(thou(95 + 15))
    assert check.carried == ("final gasket changed since it was read",)
    assert not check.read_again


@pytest.mark.parametrize(
    ("wrong", "path"),
    [
        ({"kind": CAM_MOVED, "amount": 40}, "amount"),
        ({"kind": RELIEF_DEEPENED, "amount": -1, "side": Side.INTAKE}, "amount"),
        ({"kind": RELIEF_DEEPENED, "amount": 1}, "side"),
        ({"kind": HEAD_CUT}, "front_mm"),
        ({"kind": DECK_CUT, "front_mm": 1, "amount": 1}, "amount"),
        ({"kind": CAM_MOVED, "gasket": FinalGasket(compressed_mm=1, bore_mm=90)}, "gasket"),
    ],
)
def test_a_change_that_cannot_be_is_refused_at_its_place(wrong, path):
    with pytest.raises(FaultsError) as caught:
        Change(**({"key": "c"} | wrong))
    assert [fault.path for fault in caught.value.faults] == [path]


def test_rockers_that_no_engine_has_are_refused_with_the_build():
    with pytest.raises(FaultsError, match="A ratio of 1 to 3"):
        flat(changes=(change(ROCKERS_CHANGED, -0.9),))


def test_decks_read_before_a_head_cut_stay_as_they_are():
    cut = job(changes=(change(HEAD_CUT, 10),), deck=(deck(1, 4), deck(2, 5)))
    assert not any(figure.carried for figure in evaluate(cut).deck.values())


def test_a_relief_takes_metal_off_the_piston_and_a_sunk_valve_off_the_chamber():
    # By hand: a disc of 40 mm, 1 mm thick, is pi/4 x 40^2 x 1 / 1000 = 1.2566 cm3; a relief opens 0.55 of it on average
    # (common practice, no source), a seat all of it, and where nothing is said a valve has 0.36 of the bore as exhaust.
    sized = engine(intake=replace(inclined(20.0), diameter_mm=40.0), exhaust=inclined(20.0))
    cases = (
        (RELIEF_DEEPENED, Side.INTAKE, VolumePart.PISTON, 0.55 * 1.25664),
        (VALVES_SUNK, Side.INTAKE, VolumePart.CHAMBER, 1.25664),
        (VALVES_SUNK, Side.EXHAUST, VolumePart.CHAMBER, math.pi / 4 * (0.36 * 95.25) ** 2 / 1000),
    )
    plain = flat(engine=sized, volumes=volumes())
    for kind, side, part, more_cc in cases:
        one = replace(change(kind, side=side), amount=1.0)
        before, after = (EvaluationContext(done).parts for done in (plain, replace(plain, changes=(one,))))
        for each in VolumePart:
            gained = after[each][1].volume.value - before[each][1].volume.value
            assert gained == pytest.approx(more_cc if each is part else 0.0, abs=1e-4)


@pytest.mark.parametrize("side", list(Side))
def test_larger_valves_are_those_of_their_own_side(side):
    sized = engine(intake=replace(inclined(20.0), diameter_mm=40.0), exhaust=replace(inclined(20.0), diameter_mm=34.0))
    after = as_changed(sized, (replace(change(VALVES_CHANGED, side=side), amount=2.0),))
    for each, was in ((Side.INTAKE, 40.0), (Side.EXHAUST, 34.0)):
        assert after.row(each).diameter_mm == was + (2.0 if each is side else 0.0)
