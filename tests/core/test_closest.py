"""The closest approach: fit, bracket, next reading, wrong TDC, inferred valves."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.base.stations import Station
from mockup.checks.check import Trust
from mockup.checks.methods import differences
from mockup.checks.sweeps import to_running_mm
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import Clay, Lifters, Springs
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.fit.valve_model import DEGREED_U_DEG, Sweep, looks_shut
from mockup.limits.judge import Bound, State
from mockup.motion.lobes import CardLobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.corrections import UncertaintySource
from mockup.quantity.value import Value
from mockup.readings.instruments import FEELERS
from tests.fitting import as_sweep, closest_approach
from tests.making import CARD, clay, deck, engine, job, mockup, thou
from tests.making_readings import SWEPT, degree, sweep, table

CRANK = SliderCrank(49.2, 172.7)
TRAIN = ValveTrain(side=Side.INTAKE, lobe=CardLobe(8.0, 130.0, 2.6, 3.2), centreline_deg=106.0, ratio=1.5)
FINE = np.linspace(-40, 40, 3201)


def clearance(t, drop=2.0, train=TRAIN, k=1.0):
    t = np.asarray(t, dtype=float)
    return drop + k * CRANK.travel_mm(t) - train.lift_mm(t)


def true_minimum(**more):
    return float(clearance(FINE, **more).min()), float(FINE[int(clearance(FINE, **more).argmin())])


def swept(angles=(0, 5, 10, 15, 20), **more):
    return as_sweep(angles, clearance(angles), more.pop("u", thou(0.3)), 1.0)


@pytest.mark.parametrize("train", [None, TRAIN])
def test_five_readings_find_the_minimum_and_its_angle(train):
    least, at = true_minimum()
    found = closest_approach(swept(), CRANK, train)
    assert found.minimum.value == pytest.approx(least, abs=thou(0.7))
    assert found.angle.value == pytest.approx(at, abs=1.0)
    assert found.bracketed
    assert abs(found.minimum.value - least) <= found.minimum.expanded
    assert min(clearance((0, 5, 10, 15, 20))) > least  # the smallest reading itself is optimistic


def test_with_the_lift_known_one_reading_is_enough_and_without_it_says_little():
    one = as_sweep([10.0], clearance([10.0]), thou(0.3), 1.0)
    unknown = closest_approach(one, CRANK, None)
    assert abs(unknown.minimum.value - true_minimum()[0]) <= unknown.minimum.expanded
    assert unknown.minimum.expanded > thou(10)
    known = closest_approach(replace(one, phase_u_deg=DEGREED_U_DEG), CRANK, TRAIN)
    assert known.minimum.value == pytest.approx(true_minimum()[0], abs=thou(0.5))
    assert not known.bracketed
    assert known.minimum.expanded < thou(5)
    # Nobody showed that the lobe is this cam's: one angle leaves that open, two less, and five show it themselves.
    several = [closest_approach(swept(angles), CRANK, TRAIN) for angles in ((10,), (5, 10), (0, 5, 10, 15, 20))]
    lobe = [next((part.u for part in found.parts if part.of is UncertaintySource.LOBE), 0.0) for found in several]
    assert lobe == [pytest.approx(thou(5)), pytest.approx(thou(2)), 0.0]


def test_a_drop_read_at_firing_tdc_makes_the_known_curve_surer():
    readings = as_sweep([15.0, 20.0], clearance([15.0, 20.0]), thou(2), 1.0)
    plain = closest_approach(readings, CRANK, TRAIN)
    with_drop = closest_approach(replace(readings, drop=Value(2.0, thou(0.3))), CRANK, TRAIN)
    assert with_drop.minimum.u < plain.minimum.u


@pytest.mark.parametrize(("angles", "following"), [((10, 15, 20, 25), 5.0), ((-15, -10, -5, 0), 5.0)])
def test_a_minimum_at_the_end_is_not_bracketed_and_the_next_reading_lies_past_it(angles, following):
    found = closest_approach(swept(angles), CRANK, None)
    assert not found.bracketed
    assert found.next_deg == following


def test_the_next_reading_lies_inside_shrinks_u_and_comes_to_enough():
    angles = [0.0, 10.0, 20.0]
    before = closest_approach(swept(angles, u=thou(0.5)), CRANK, None)
    seen = [before.minimum.u]
    for _ in range(12):
        found = closest_approach(swept(sorted(angles), u=thou(0.5)), CRANK, None)
        if found.enough(undecided=False):
            break
        assert min(angles) <= found.next_deg <= max(angles)
        assert found.next_deg == round(found.next_deg)
        angles.append(found.next_deg)
        seen.append(found.minimum.u)
    assert found.enough(undecided=False)
    assert seen == sorted(seen, reverse=True)


def test_a_reading_that_stands_out_is_found_and_five_honest_ones_are_not():
    honest = closest_approach(swept(range(0, 21, 2)), CRANK, TRAIN)
    assert not any(honest.outlier)
    wrong = swept(range(0, 21, 2))
    wrong.c_mm[4] += thou(10)
    found = closest_approach(wrong, CRANK, TRAIN)
    assert [at for at, out in enumerate(found.outlier) if out] == [4]
    assert found.scatter > 1
    assert found.minimum.u > honest.minimum.u


@given(st.floats(-1.0, 1.0), st.floats(1.5, 4.0))
def test_a_wheel_a_little_out_moves_the_angle_and_hardly_the_minimum(out, drop):
    angles = np.array([0.0, 5.0, 10.0, 15.0, 20.0])
    found = closest_approach(as_sweep(angles, clearance(angles - out, drop), thou(0.3), 1.0), CRANK, TRAIN)
    assert found.minimum.value == pytest.approx(true_minimum(drop=drop)[0], abs=thou(0.4))


def test_readings_that_follow_the_piston_alone_are_seen_to_be_of_shut_valves():
    angles = np.array([0.0, 5.0, 10.0, 15.0])
    shut = Sweep(angles, 3.0 + CRANK.travel_mm(angles), np.full(4, 0.01), 1.0)
    assert looks_shut(shut, CRANK)
    assert not looks_shut(swept(), CRANK)


# --- in a job --------------------------------------------------------------------------------------------------------


def intake(*readings, **changes):
    report = evaluate(job(clay=(), sweeps=readings, **changes))
    return report.of_kind(FACE_INTAKE_CHECK)[0], report


def test_a_sweep_is_carried_to_the_running_engine_and_judged():
    gasket = FinalGasket(compressed_mm=thou(41), bore_mm=97.0)
    check, report = intake(*SWEPT, final_gasket=gasket)
    assert check.figure.value == pytest.approx(thou(85.3 + 5), abs=thou(0.6))
    assert check.state is State.CLEAR
    assert "closest at 5 ATDC" in check.governing.method
    assert check.governing.trust is Trust.SOUND
    assert report.sweeps[0].closest.bracketed


def test_a_sweep_that_is_not_bracketed_proves_nothing_and_says_where_to_read():
    check, _ = intake(*SWEPT[2:])
    assert check.governing.bound is Bound.AT_MOST
    assert check.state is State.NOT_MEASURED
    assert any("Read at 5 ATDC next" in caution for caution in check.governing.cautions)


def test_two_angles_are_plenty_where_there_is_plenty_and_too_close_to_call_where_not():
    near, _ = intake(*SWEPT[:2])
    assert near.state is State.CLOSE
    assert any("sweep it" in caution for caution in near.governing.cautions)
    far, _ = intake(sweep(10, 430))  # the readings of maths section 5b
    assert far.state is State.CLEAR
    assert far.figure.expanded > thou(20)


def test_firing_tdc_is_caught_with_the_fix():
    travel = SliderCrank(49.2125, 172.72).travel_mm([0.0, 5.0, 10.0, 15.0]) / thou(1)
    check, report = intake(*(sweep(a, 150 + p) for a, p in zip((0, 5, 10, 15), travel, strict=True)))
    assert check.governing.trust is Trust.VOID
    assert any("firing TDC" in question.text for question in report.questions)


def test_a_drop_smaller_than_what_was_read_and_a_dial_that_stands_still_are_asked_about():
    drop = sweep(0, 40, drop=True, key="drop")
    assert any("drop is less" in question.text for question in intake(*SWEPT, drop)[1].questions)
    still = tuple(sweep(angle, 90) for angle in (0, 5, 10, 15))
    assert any("every reading is the same" in question.text for question in intake(*still)[1].questions)


def test_a_tilted_dial_reads_large_and_a_drifted_zero_is_less_sure():
    plain, _ = intake(*SWEPT)
    tilted, _ = intake(*(replace(reading, tilt_deg=10.0) for reading in SWEPT))
    assert tilted.figure.value < plain.figure.value * 0.99
    assert tilted.figure.u > plain.figure.u
    # All readings of a sitting are tilted alike: more of them make it no surer.
    twice = tuple(replace(one, key=f"{one.key}-again") for one in SWEPT)
    again, _ = intake(*(replace(reading, tilt_deg=10.0) for reading in (*SWEPT, *twice)))
    tilts = [[p.u for p in check.governing.parts if p.of is UncertaintySource.TILT] for check in (tilted, again)]
    assert tilts[0] == tilts[1] == [pytest.approx(thou(85.5) * np.sin(np.radians(10)) * np.radians(3))]
    drifted, _ = intake(*(replace(reading, drift_mm=thou(2)) for reading in SWEPT))
    assert drifted.figure.u > plain.figure.u


def test_a_measured_lobe_is_used_and_a_card_is_not():
    carded = intake(*SWEPT, cam_card=CARD)[1].sweeps[0].closest
    degreed = (degree(Side.INTAKE, 70.0, 146.0),)
    measured = intake(*SWEPT, cam_card=CARD, lobe_tables=(table(),), degrees=degreed)[1].sweeps[0].closest
    assert not carded.lift_known
    assert measured.lift_known


@pytest.mark.parametrize("wrong", [{"crank_deg": 120.0}, {"clearance_mm": -1.0}, {"tilt_deg": 80.0}, {"drift_mm": 5.0}])
def test_a_reading_that_cannot_be_is_refused(wrong):
    with pytest.raises(FaultsError):
        replace(SWEPT[0], **wrong)


# --- methods side by side, and valves that were not read ---


def test_the_trades_four_readings_of_one_engine_are_put_side_by_side():
    # Common practice, no source: indicator 0.054, clay with checking springs 0.076, with running springs 0.135.
    loaded = mockup(key="B", springs=Springs.RUNNING)
    read = tuple(replace(one, clearance_mm=one.clearance_mm - thou(31)) for one in SWEPT)
    readings = (clay(76), clay(135, mockup="B", key="loaded"))
    report = evaluate(job(clay=readings, sweeps=read, mockups=(mockup(), loaded)))
    check = report.of_kind(FACE_INTAKE_CHECK)[0]
    assert check.governing.method.startswith("dial indicator")
    found = {other.method: (more, why) for other, more, why in differences(check)}
    assert found["clay, mock-up A"][0] == pytest.approx(thou(22), abs=thou(1))
    assert "clay gives a little" in found["clay, mock-up A"][1]
    assert "bends under running springs" in found["clay, mock-up B"][1]


def test_clay_that_agrees_or_bleeds_says_so():
    agree = evaluate(job(clay=(clay(87),), sweeps=SWEPT)).of_kind(FACE_INTAKE_CHECK)[0]
    assert next(differences(agree))[2] == "they agree within their U"
    final = FinalGasket(compressed_mm=thou(41), bore_mm=97.0)
    thin = (mockup(), mockup(key="B", gasket_mm=thou(20)))
    thinner = tuple(replace(one, clearance_mm=one.clearance_mm - thou(16), mockup="B") for one in SWEPT)
    apart = evaluate(job(clay=(clay(87),), sweeps=thinner, mockups=thin, final_gasket=final))
    assert "after counting the gaskets" in next(differences(apart.of_kind(FACE_INTAKE_CHECK)[0]))[2]
    bleeding = mockup(key="B", lifters=Lifters.UNBLOCKED)
    report = evaluate(job(clay=(clay(120, mockup="B"),), sweeps=SWEPT, mockups=(mockup(), bleeding)))
    assert "bleeding" in next(differences(report.of_kind(FACE_INTAKE_CHECK)[0]))[2]


def test_an_unread_valve_is_inferred_from_another_and_both_decks_and_never_counts_as_measured():
    four = engine(cylinders=4)
    decks = tuple(deck(c, d) for c, d in ((1, 5), (2, 5), (3, 9), (4, 1)))
    report = evaluate(job(engine=four, deck=decks, clay=(clay(95), clay(115, 1, Side.EXHAUST))))
    first, second, third, fourth = report.of_kind(FACE_INTAKE_CHECK)
    assert first.inferred is None
    assert third.inferred.figure.value - first.figure.value == pytest.approx(thou(4))
    assert second.inferred.figure.u > first.figure.u
    assert second.state is State.NOT_MEASURED
    asked = [step.cylinder for step in report.steps if step.station is Station.CLAY]
    assert asked[0] == 4  # the one that seems tightest tells most
    assert fourth.inferred.figure.value < second.inferred.figure.value


@pytest.mark.parametrize(
    ("conditions", "trust"),
    [
        ({"clay": Clay.PUTTY}, Trust.SOUND),
        ({"clay": Clay.DOUGH}, Trust.SOUND),
        ({"two_turns": False}, Trust.SOUND),
        ({"springs": Springs.RUNNING}, Trust.LOADED),
        ({"lifters": Lifters.UNBLOCKED}, Trust.OPTIMISTIC),
    ],
)
def test_an_indicator_minds_lifters_and_springs_and_not_what_was_squeezed(conditions, trust):
    found, sound = (intake(*SWEPT, mockups=(mockup(**one),))[0].governing for one in (conditions, {}))
    assert (found.trust, found.figure) == (trust, sound.figure)
    assert bool(set(found.cautions) - set(sound.cautions)) == (trust is not Trust.SOUND)


def test_what_carries_a_sweep_to_the_running_engine_is_the_difference_of_its_two_figures():
    check, report = intake(*SWEPT, final_gasket=FinalGasket(compressed_mm=thou(41), bore_mm=97.0))
    assert to_running_mm(report.sweeps[0], check) == pytest.approx(thou(5))
    report = evaluate(job(clay=(clay(60),), sweeps=SWEPT))
    also = report.of_kind(FACE_INTAKE_CHECK)[0]
    assert to_running_mm(report.sweeps[0], also) == pytest.approx(0.0)
    assert also.others


def test_of_two_cylinders_that_were_read_the_surer_one_is_inferred_from():
    four = engine(cylinders=4)
    decks = tuple(deck(c, 5) for c in four.cylinder_numbers)
    soft = mockup(key="B", clay=Clay.DOUGH)
    read = (clay(95, mockup="B"), clay(100, 3))
    report = evaluate(job(engine=four, deck=decks, clay=read, mockups=(mockup(), soft)))
    second = report.of_kind(FACE_INTAKE_CHECK)[1]
    assert second.inferred.corrections[0].text == "Intake 3 as it will run"


def test_the_drop_is_the_mean_of_its_readings_and_no_surer_than_the_dial_stood_askew():
    straight, tilted = (
        intake(*SWEPT, *(sweep(0, t, drop=True, tilt_deg=tilt, key=f"{t}") for t in (80, 82)))[1].sweeps[0].drop
        for tilt in (0.0, 10.0)
    )
    assert straight.value == pytest.approx(thou(81))
    assert tilted.value == pytest.approx(thou(81) * math.cos(math.radians(10.0)), rel=1e-3)
    assert tilted.u > 1.2 * straight.u


def test_the_angle_of_the_closest_point_scatters_as_it_says():
    rng = np.random.default_rng(5)
    clean = swept((0, 4, 8, 12, 16, 20), u=thou(0.5))
    found = [
        closest_approach(replace(clean, c_mm=clean.c_mm + rng.normal(0, thou(0.5), 6)), CRANK, None).angle
        for _ in range(60)
    ]
    scatter = np.std([one.value for one in found])
    told = np.median([one.u for one in found])
    # What it says holds the wheel's own half degree besides, which does not scatter here.
    assert scatter < told < math.hypot(2 * scatter, 0.7)


def test_the_step_of_feelers_counts_in_what_the_clearance_is_known_to():
    def u(half_thou):
        read = [replace(one, instrument=FEELERS, half_width_mm=thou(half_thou)) for one in SWEPT]
        return intake(*read)[0].figure.u

    # A step of 8 thou is a uniform interval of +-4: 2.3 thou for each reading (GUM 4.3.7).
    assert u(4) > u(2) > u(0.5)
