"""Another cam, predicted from the drop: against evaluate, and a curve by brentq."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.optimize import brentq

from mockup.base.faults import FaultsError
from mockup.changes.change import Change
from mockup.changes.cuts import DECK_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, LASH_CHANGED, ROCKERS_CHANGED
from mockup.checks.check import Trust
from mockup.checks.drops import READ_DIRECTLY
from mockup.checks.other_cam import known_drops
from mockup.engine.cam import CamCard, Duration, LiftAt, LobeCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import Lifters, Springs
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.fit.approach import approach_of
from mockup.limits.judge import State
from mockup.plans.what_if import WhatIf, supposed
from mockup.plans.which_cam import SHOWN_DEG, Candidate, _window, which_cam
from mockup.readings.cam_timing import DegreeReading
from mockup.readings.pushrods import PushrodReading
from mockup.readings.sweep import SweepReading
from tests.making import CARD, OTHER_CAM, clay, engine, inclined, job, mockup, thou

LEANING = engine(rocker_ratio=1.5, intake=inclined(12.0), exhaust=inclined(10.0))


def drop(thou_down, side=Side.INTAKE, cylinder=1, **changes):
    key = f"drop-{side}-{cylinder}-{thou_down}"
    plain = {"key": key, "mockup": "A", "place": Place(cylinder, side), "clearance_mm": thou(thou_down), "drop": True}
    return SweepReading(**(plain | changes))


def swept(angle, thou_left, side=Side.INTAKE, **changes):
    key = f"s-{side}-{angle}"
    plain = {"key": key, "mockup": "A", "place": Place(1, side), "clearance_mm": thou(thou_left)}
    return SweepReading(**(plain | {"crank_deg": float(angle)} | changes))


def dropped(**changes):
    """Both valves of the first cylinder with their drops alone."""
    plain = {"engine": LEANING, "clay": (), "sweeps": (drop(210), drop(230, Side.EXHAUST)), "cam_card": CARD}
    return job(**(plain | changes))


def put_in(made, cam=OTHER_CAM, *more):
    """The engine with another cam in it, and evaluated."""
    changes = (Change(key="other", kind=CAMSHAFT_CHANGED, cam=cam), *more)
    return evaluate(supposed(made, WhatIf(changes=changes)))


def face(report, label="Intake 1"):
    return next(check for check in report.checks if check.label == label)


def prospect(made, cam=OTHER_CAM, **how):
    return which_cam(evaluate(made), [Candidate(key="one", cam=cam, **how)])[0]


def triangle_table(side, at=LiftAt.LOBE):
    """A smooth lobe in closed form, L (1 - (x/w)^2)^3, measured every two degrees."""
    x = np.arange(-140.0, 141.0, 2.0)
    lift = 8.0 * np.clip(1 - (x / 136.0) ** 2, 0, None) ** 3
    return LobeTable(side=side, angles_deg=tuple(x), lifts_mm=tuple(np.round(lift, 5)), at=at, u_mm=0.005)


TABLES = Camshaft(name="measured", tables=tuple(triangle_table(side) for side in Side), icl_deg=108.0, ecl_deg=112.0)


@pytest.mark.parametrize("cam", [OTHER_CAM, TABLES], ids=["card", "tables"])
@pytest.mark.parametrize(("advance", "ratio"), [(0.0, None), (4.0, None), (-3.0, 1.6)])
@pytest.mark.parametrize("gasket", [36, 51])
def test_what_is_predicted_is_what_evaluate_says_once_it_is_put_in(cam, advance, ratio, gasket):
    made = dropped(final_gasket=FinalGasket(compressed_mm=thou(gasket), bore_mm=97.0))
    more = [Change(key="adv", kind=CAM_MOVED, amount=advance)] if advance else []
    more += [Change(key="ratio", kind=ROCKERS_CHANGED, amount=ratio - 1.5)] if ratio else []
    after = put_in(made, cam, *more)
    found = prospect(made, cam, advance_deg=advance, ratio=ratio)
    assert len(found.predicted) == 2
    for one in found.predicted:
        is_now = face(after, one.check.label)
        assert one.figure.value == pytest.approx(is_now.figure.value, abs=1e-9)
        assert one.figure.expanded == pytest.approx(is_now.figure.expanded, abs=1e-9)
        assert is_now.read_again
        # By a card it is an estimate and never clear; a measured lobe is judged, and still wants reading again.
        assert is_now.governing.trust is (Trust.SOUND if cam is TABLES else Trust.ESTIMATE)
        assert not is_now.proved


def test_a_measured_lobe_against_its_closed_form():
    made = dropped()
    found = prospect(made, TABLES)
    crank, rod, step = 98.425 / 2, 172.72, 1e-4
    for one, k_deg, drop_mm, stands in zip(
        found.predicted, (12.0, 10.0), (thou(210), thou(230)), (108.0, -112.0), strict=True
    ):
        k = np.cos(np.radians(k_deg))

        def apart(t, k=k, drop_mm=drop_mm, stands=stands):
            a = np.radians(t)
            travel = crank * (1 - np.cos(a)) + rod - np.sqrt(rod**2 - (crank * np.sin(a)) ** 2)
            x = t - stands
            return drop_mm + k * travel - 1.5 * 8.0 * np.clip(1 - (x / 136.0) ** 2, 0, None) ** 3

        # The closest point is where the slope is nothing: brentq on the slope of an independent curve.
        at = brentq(lambda t, of=apart: of(t + step) - of(t - step), -40, 40)
        assert one.angle_deg == pytest.approx(at, abs=0.05)
        # A table read to 0.005 and its spline, at a ratio of 1.5.
        assert one.figure.value == pytest.approx(apart(at), abs=0.003)
        chart = found.curves[one.check.side]
        assert chart.min() == pytest.approx(one.figure.value, abs=1e-3)
        assert np.allclose(chart, [apart(t) for t in SHOWN_DEG], atol=0.004)


def all_clear(made, cam, *more):
    after = put_in(made, cam, *more)
    checks = [c for c in after.checks if c.figure and str(c.kind).endswith("face")]
    return all(c.margin >= c.figure.expanded - 1e-6 for c in checks)


@pytest.mark.parametrize("drops", [(230, 240), (200, 250), (215, 205)])
@pytest.mark.parametrize("cam", [OTHER_CAM, TABLES], ids=["card", "tables"])
def test_the_least_work_makes_it_clear_and_a_little_less_does_not(drops, cam):
    made = dropped(sweeps=(drop(drops[0]), drop(drops[1], Side.EXHAUST)))
    found = prospect(made, cam)
    work = found.work
    if work.window_deg:
        for end, way in zip(work.window_deg, (-1, 1), strict=True):
            if abs(end) < 14.9:
                inside, outside = (Change(key="adv", kind=CAM_MOVED, amount=end - way * near) for near in (0.05, -0.05))
                assert all_clear(made, cam, inside)
                assert not all_clear(made, cam, outside)
    if work.reliefs_mm:
        for less, clear in ((0.0, True), (0.02, False)):
            cuts = [
                Change(key=str(side), kind=RELIEF_DEEPENED, side=side, amount=deeper + 1e-6 - less)
                for side, deeper in work.reliefs_mm.items()
            ]
            assert all_clear(made, cam, *cuts) is clear
    if work.gasket_mm:
        for less, clear in ((0.0, True), (0.02, False)):
            thick = FinalGasket(compressed_mm=thou(36) + work.gasket_mm + 1e-6 - less, bore_mm=97.0)
            change = Change(key="g", kind=GASKET_CHANGED, gasket=thick)
            assert all_clear(made, cam, change) is clear
    assert found.clear is all_clear(made, cam)


def test_the_window_ends_where_the_line_to_the_next_step_crosses_zero():
    # Steps of a quarter of a degree, 0 at 60. Past the next step the room falls further, which must not count.
    room = np.full(121, -5.0)
    room[52:70] = 0.3
    room[[51, 70]] = -0.9
    assert _window(room) == pytest.approx((-2.0 - 0.25 / 4, 2.25 + 0.25 / 4), abs=1e-9)
    assert _window(np.full(121, 0.1)) == (-15.0, 15.0)
    assert _window(np.full(121, -0.1)) is None


def test_cams_are_ranked_by_the_tightest_margin_and_the_unknown_come_last():
    made = dropped()
    half = Camshaft(name="half", tables=(triangle_table(Side.INTAKE),), icl_deg=108.0)
    cams = {"other": OTHER_CAM, "half": half, "own": Camshaft(name="own", card=CARD), "table": TABLES}
    found = which_cam(evaluate(made), [Candidate(key=key, cam=cam) for key, cam in cams.items()])
    known = [one for one in found if not one.missing]
    assert [one.tightest.margin for one in known] == sorted((one.tightest.margin for one in known), reverse=True)
    assert found[-1].candidate.key == "half"
    assert "exhaust" in found[-1].missing[0]
    assert found[-1].work is None
    assert not found[-1].clear


def test_nothing_is_predicted_without_a_drop_a_gasket_or_a_ratio():
    assert not prospect(dropped(sweeps=())).predicted
    assert not prospect(dropped(final_gasket=None)).predicted
    unsaid = dropped(engine=engine(rocker_ratio=None))
    assert prospect(unsaid).missing == ("the rocker ratio is not stated",) * 2
    assert prospect(unsaid, ratio=1.5).predicted
    assert not prospect(dropped(sweeps=(drop(210),))).clear, "one side alone is not the whole engine"


# The drop of a valve, however it was found


def test_a_direct_drop_is_carried_through_gasket_and_cuts_along_the_valve():
    thick = FinalGasket(compressed_mm=thou(51), bore_mm=97.0)
    cut = Change(key="cut", kind=DECK_CUT, order=1, front_mm=thou(10), rear_mm=thou(10))
    report = evaluate(dropped(final_gasket=thick, changes=(cut,), cam_card=None))
    found = known_drops(report.context)
    place = Place(1, Side.INTAKE)
    assert found[place].direct
    assert found[place].as_found.value == pytest.approx(thou(210))
    more = np.cos(np.radians(12.0)) * (thou(51) - thou(36) - thou(10))
    assert found[place].running(report.context).value == pytest.approx(thou(210) + more)
    assert found[place].corrections(report.context)[0].text == READ_DIRECTLY


def test_the_drop_of_a_sweep_is_where_its_fit_found_it_and_clay_gives_one_with_more_doubt():
    # Readings made by hand of a drop of 210: 210 + k P - L by the card's likeliest lobe.
    bare = evaluate(dropped())
    approach = approach_of(LEANING, bare.crank, bare.cam.sides[Side.INTAKE], (), 0)
    angles = (0, 5, 10, 15, 20)
    left = [thou(210) + float(approach.curve_mm([a])[0]) for a in angles]
    sweeps = tuple(swept(a, 0, clearance_mm=c) for a, c in zip(angles, left, strict=True))
    report = evaluate(dropped(sweeps=sweeps))
    found = known_drops(report.context)[Place(1, Side.INTAKE)]
    assert found.as_found.value == pytest.approx(thou(210), abs=thou(1))
    assert "fit of 5" in found.how
    least = thou(210) + float(approach.least(approach.read)[0][0])
    squeezed = evaluate(dropped(sweeps=(), clay=(clay(0, thickness_mm=least),)))
    by_clay = known_drops(squeezed.context)[Place(1, Side.INTAKE)]
    assert by_clay.as_found.value == pytest.approx(thou(210), abs=thou(1))
    assert by_clay.as_found.u > found.as_found.u
    # With both, the surer one is the engine's.
    both = evaluate(dropped(sweeps=sweeps, clay=(clay(0, thickness_mm=least),)))
    assert known_drops(both.context)[Place(1, Side.INTAKE)].how == found.how


@pytest.mark.parametrize(
    "flattering", [{"two_turns": False}, {"lifters": "unblocked hydraulic"}, {"springs": "running"}]
)
def test_clay_that_was_flattered_says_nothing_of_the_drop(flattering):
    named = {"lifters": Lifters.UNBLOCKED, "springs": Springs.RUNNING}
    stood = mockup(**{name: named.get(name, value) for name, value in flattering.items()})
    report = evaluate(dropped(sweeps=(), clay=(clay(90),), mockups=(stood,)))
    assert not known_drops(report.context)


# Once it is in


def swapped(*readings, **changes):
    """The other cam is in, as the first change; the drops were read before it."""
    made = supposed(dropped(**changes), WhatIf(changes=(Change(key="o", kind=CAMSHAFT_CHANGED, cam=OTHER_CAM),)))
    return replace(made, readings=(*made.readings, *readings))


def test_the_other_cam_is_the_engine_s_own_once_it_is_in():
    made = swapped()
    assert made.cam_card == OTHER_CAM.card
    assert made.changes[-1].cam_was == Camshaft(card=CARD)
    report = evaluate(made)
    assert report.cam.card == OTHER_CAM.card
    assert "another cam" in face(report).carried[0]
    assert face(report).state is State.NOT_MEASURED


def test_what_was_degreed_of_the_old_cam_says_nothing_of_the_new_one():
    old = DegreeReading(key="d", side=Side.INTAKE, lift_mm=1.27, opening_deg=-6.0, closing_deg=214.0)
    made = swapped(old)
    assert evaluate(made).cam.sides[Side.INTAKE].degreed is None
    assert evaluate(dropped(degrees=(old,))).cam.sides[Side.INTAKE].degreed
    new = DegreeReading(key="e", after=1, side=Side.INTAKE, lift_mm=1.27, opening_deg=-14.0, closing_deg=222.0)
    assert evaluate(replace(made, readings=(*made.readings, new))).cam.sides[Side.INTAKE].degreed


def test_reading_again_with_the_new_cam_proves_it_and_the_drop_stays():
    made = swapped()
    predicted = face(evaluate(made)).figure
    angles = (0, 5, 10, 15, 20)
    again = [swept(a, t, after=1) for a, t in zip(angles, (112, 100, 96, 100, 112), strict=True)]
    report = evaluate(replace(made, readings=(*made.readings, *again)))
    check = face(report)
    assert check.governing.trust is Trust.SOUND
    assert not check.read_again
    assert check.figure.u < predicted.u
    # The drop that was read before any cam is still there, and still the engine's.
    assert known_drops(report.context)[Place(1, Side.INTAKE)].evidence[0].startswith(("drop", "s-"))


def test_the_cam_that_was_moved_before_it_went_out_moves_no_other():
    moved = Change(key="m", kind=CAM_MOVED, amount=4.0)
    other = Change(key="o", kind=CAMSHAFT_CHANGED, cam=OTHER_CAM)
    before = evaluate(supposed(dropped(), WhatIf(changes=(moved, other))))
    assert before.cam.sides[Side.INTAKE].shown_deg == pytest.approx(106.0)
    lash = Change(key="l", kind=LASH_CHANGED, side=Side.INTAKE, amount=0.2)
    lashed = [evaluate(supposed(dropped(), WhatIf(changes=order))) for order in ((lash, other), (other, lash))]
    assert [report.cam.sides[Side.INTAKE].train.lash_mm for report in lashed] == pytest.approx([0.0, 0.2])
    after = evaluate(supposed(dropped(), WhatIf(changes=(other, moved))))
    assert after.cam.sides[Side.INTAKE].shown_deg == pytest.approx(102.0)


def test_pushrods_are_measured_again_for_another_base_circle():
    tried = PushrodReading(key="p", mockup="A", place=Place(1, Side.INTAKE), closed_mm=190.0)
    report = evaluate(swapped(tried))
    assert (
        report.pushrods[Place(1, Side.INTAKE)].stale
        if hasattr(report.pushrods[Place(1, Side.INTAKE)], "stale")
        else "another cam" in " ".join(report.pushrods[Place(1, Side.INTAKE)].carried)
    )


def test_twice_another_cam_each_reading_is_of_the_cam_that_stood_there():
    third = Camshaft(name="third", card=replace(OTHER_CAM.card, icl_deg=110.0))
    twice = (
        Change(key="o", kind=CAMSHAFT_CHANGED, cam=OTHER_CAM),
        Change(key="t", kind=CAMSHAFT_CHANGED, cam=third),
    )
    angles = (0, 5, 10, 15, 20)
    first = evaluate(dropped())
    approach = approach_of(LEANING, first.crank, first.cam.sides[Side.INTAKE], (), 0)
    left = [thou(210) + float(approach.curve_mm([a])[0]) for a in angles]
    sweeps = tuple(swept(a, 0, clearance_mm=c) for a, c in zip(angles, left, strict=True))
    made = supposed(dropped(sweeps=sweeps), WhatIf(changes=twice))
    assert [change.cam_was and change.cam_was.card for change in made.changes] == [CARD, OTHER_CAM.card]
    # The sweep was made with the first cam in: its drop is found by that one's lobe, not by the second's.
    assert known_drops(evaluate(made).context)[Place(1, Side.INTAKE)].as_found.value == pytest.approx(
        thou(210), abs=thou(1)
    )


@pytest.mark.parametrize(
    ("given", "path"),
    [
        ({}, "card"),
        ({"card": CARD, "icl_deg": 40.0}, "icl_deg"),
        ({"tables": (triangle_table(Side.INTAKE), triangle_table(Side.INTAKE))}, "tables"),
    ],
)
def test_a_cam_of_nothing_is_refused_at_the_field(given, path):
    with pytest.raises(FaultsError) as caught:
        Camshaft(**given)
    assert path in {fault.path for fault in caught.value.faults}


def test_a_change_of_cam_brings_a_cam_and_no_other_change_does():
    with pytest.raises(FaultsError):
        Change(key="c", kind=CAMSHAFT_CHANGED)
    with pytest.raises(FaultsError):
        Change(key="c", kind=CAM_MOVED, amount=2.0, cam=OTHER_CAM)


def test_a_lobe_with_more_lift_at_equal_timing_always_leaves_less():
    lobe = LobeCard(lift_mm=thou(300), durations=(Duration(264.0, thou(20)), Duration(226.0, thou(50))))
    made, left = dropped(), []
    for lift in (300, 320, 340):
        taller = replace(lobe, lift_mm=thou(lift))
        cam = Camshaft(card=CamCard(intake=taller, exhaust=taller, icl_deg=106.0, lsa_deg=110.0))
        left.append(prospect(made, cam, ratio=1.5).tightest.figure.value)
    assert left == sorted(left, reverse=True)
