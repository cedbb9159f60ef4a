"""What-ifs and remedies: predictions held against evaluate, plans that clear everything and are minimal."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mockup.checks.check import Kind
from mockup.checks.judge import State, judge
from mockup.checks.margins import Edit, LimitName
from mockup.engine.block import cylinder_volume
from mockup.engine.changes import CHANGE_U_MM, ChangeKind
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.mockup import GasketState
from mockup.engine.running import Material, Running
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.faults import FaultsError
from mockup.plans.levers import Lever, ShopLimits
from mockup.plans.remedies import remedies, still_in_the_way, worth_measuring
from mockup.plans.surface import Amounts, Surface
from mockup.plans.what_if import WhatIf, curve_changes, done, effects, lash_left_mm, steps_to_take, supposed
from mockup.quantity.value import Value
from mockup.readings.clay import Gap, Spot
from mockup.readings.pushrods import Lifter, PushrodChoice
from tests.core.test_cam import degree, table
from tests.core.test_closest import sweep
from tests.core.test_head_clay import head
from tests.core.test_train import trial
from tests.making import CARD, barrels, change, clay, deck, engine, inclined, job, mockup, short_eight, thou

GASKETS = tuple(FinalGasket(name=f"{t}", compressed_mm=thou(t), bore_mm=97.0) for t in (30, 36, 41, 46, 51, 60))
SHOP = ShopLimits(
    gaskets=GASKETS,
    cam_deg=(-8.0, -4.0, -2.0, 2.0, 4.0, 8.0),
    ratios=(1.4, 1.45, 1.55),
    relief_mm=thou(100),
    head_mm=thou(40),
    relief_step_mm=thou(5),
    cut_step_mm=thou(1),
)


def swept_four():
    """A four with measured lobes: one intake swept, one exhaust by clay under a snugged new gasket, an edge read."""
    four = engine(cylinders=4, intake=inclined(12.0), exhaust=inclined(14.0), rocker_ratio=1.5)
    read = tuple(sweep(angle, down) for angle, down in ((0, 100), (5, 88), (10, 86), (15, 95), (20, 120)))
    snug = mockup(key="B", gasket_state=GasketState.SNUGGED, gasket_mm=thou(45))
    return short_eight(
        engine=four,
        mockups=(mockup(), snug),
        deck=tuple(deck(cylinder, 5) for cylinder in four.cylinder_numbers),
        clay=(clay(120, 2, Side.EXHAUST, mockup="B"), clay(40, 2, Side.EXHAUST, gap=Gap.RADIAL, mockup="B", key="e")),
        sweeps=read,
        lobe_tables=(table(), table(side=Side.EXHAUST)),
        degrees=(degree(Side.INTAKE, 70.0, 146.0), degree(Side.EXHAUST, -146.0, -70.0)),
        pushrods=(trial(),),
    )


def clayed_to_the_head(lifter):
    """The four with clay at pad, plug and dome, and leaning pushrods chosen for these lifters."""
    spots = tuple(
        head(t, spot, 1 + at) for at, (t, spot) in enumerate(((45, Spot.PAD), (80, Spot.PLUG), (90, Spot.DOME)))
    )
    window = {"low_mm": thou(10), "aim_mm": thou(16), "high_mm": thou(60), "lean_deg": 6.0, "chosen_mm": 7.395 * 25.4}
    plain = swept_four()
    edits = {LimitName.CROWN: Edit(thou(50)), LimitName.RADIAL: Edit(thou(30))}
    return replace(
        plain,
        heads=spots,
        pushrod_choice=PushrodChoice(lifter=lifter, **window),
        sheet=replace(plain.sheet, edits=plain.sheet.edits | edits),
    )


JOBS = {
    "card and clay": short_eight(),
    "measured and swept": swept_four(),
    "clay to the head, hydraulic": clayed_to_the_head(Lifter.HYDRAULIC),
    "clay to the head, solid": clayed_to_the_head(Lifter.SOLID),
}
SURFACES = {name: Surface(evaluate(one)) for name, one in JOBS.items()}


def amount(most, least=0.0):
    return st.just(0.0) | st.floats(least or most / 100, most)


@settings(max_examples=100)
@given(
    st.sampled_from(list(JOBS)),
    st.sampled_from([None, *GASKETS]),
    amount(8.0, -8.0),
    st.sampled_from([None, *Side]),
    amount(0.2, -0.2),
    amount(2.0),
    amount(1.0),
    amount(0.6),
    amount(3.0, -3.0),
)
def test_every_prediction_is_what_evaluate_makes_of_the_changed_engine(
    name, gasket, cam, side, ratio, relief, head, cut, rod
):
    plain = JOBS[name]
    rod = rod if plain.pushrods_chosen else 0.0
    wanted = [
        (gasket, lambda: change(ChangeKind.GASKET, gasket=gasket)),
        (cam, lambda: change(ChangeKind.CAM, cam, side=side)),
        (ratio, lambda: change(ChangeKind.ROCKERS, ratio)),
        (relief, lambda: change(ChangeKind.RELIEF, relief / thou(1), side=Side.INTAKE)),
        (head, lambda: change(ChangeKind.HEAD_CUT, head / thou(1))),
        (cut, lambda: change(ChangeKind.DECK_CUT, cut / thou(1))),
        (rod, lambda: change(ChangeKind.PUSHRODS, rod / thou(1))),
    ]
    after = evaluate(supposed(plain, WhatIf(changes=tuple(make() for asked, make in wanted if asked))))
    final, new = plain.final_gasket, gasket or plain.final_gasket
    size = [cylinder_volume(one.bore_mm, one.compressed_mm) for one in (final, new)]
    value, u = SURFACES[name].predict(
        Amounts(
            gasket_mm=np.array([new.compressed_mm - final.compressed_mm]),
            gasket_cc=np.array([size[1] - size[0]]),
            **{f"{side}_cam_deg" if side else "advanced_deg": np.array([cam])},
            more_ratio=np.array([ratio]),
            relief_intake_mm=np.array([relief]),
            head_mm=np.array([head]),
            deck_mm=np.array([cut]),
            pushrod_mm=np.array([rod]),
        )
    )
    figures = {check.label: check.figure for check in after.checks}
    for at, check in enumerate(SURFACES[name].checks):
        # Of a ratio the surface carries U in first order only.
        near = 1e-6 if check.kind.is_length else 5e-4
        assert value[0, at] == pytest.approx(figures[check.label].value, abs=1e-6), check.label
        assert u[0, at] == pytest.approx(figures[check.label].u, abs=near), check.label


def clear(plain, changes):
    return not still_in_the_way(evaluate(supposed(plain, WhatIf(changes=tuple(changes)))))


@settings(max_examples=12)
@given(st.integers(66, 82), st.integers(92, 112), st.sampled_from([30, 40, 51]), st.sampled_from([8.8, 9.3, 9.4]))
def test_every_plan_clears_everything_and_undoing_any_part_does_not(intake, exhaust, gasket, low):
    faces = {Side.INTAKE: intake, Side.EXHAUST: exhaust}
    edits = {**short_eight().sheet.edits, LimitName.RATIO_LOW: Edit(low)}
    plain = short_eight(
        clay=tuple(
            replace(clay(base + n, n, side), key=f"{side}{n}") for n in range(1, 9) for side, base in faces.items()
        ),
        final_gasket=FinalGasket(compressed_mm=thou(gasket), bore_mm=97.0),
        sheet=short_eight().sheet.edited(edits),
    )
    found = remedies(evaluate(plain), SHOP)
    assert found.plans or found.obstacle or clear(plain, ())
    sizes = [len(plan.levers) for plan in found.plans]
    assert sizes == sorted(sizes)
    assert len({plan.levers for plan in found.plans}) == len(sizes)
    for plan in found.plans:
        assert clear(plain, plan.changes)
        for left_out in plan.changes:
            rest = [one for one in plan.changes if one is not left_out]
            assert not (rest and clear(plain, rest))


def test_what_is_too_close_to_call_is_worth_measuring_to_within_its_daylight():
    plain = evaluate(short_eight())
    found = {check.label: known_to for check, known_to in worth_measuring(plain)}
    # Intake 5 and Exhausts 1 to 3 lie below their minimum: no measuring makes room.
    assert "Intake 5" not in found
    assert found["Exhaust 6"] == pytest.approx(thou(3))
    better = next(check for check in plain.checks if check.label == "Exhaust 6")
    assert judge(Value(better.figure.value, found["Exhaust 6"] / 2), better.limit) is State.CLEAR
    assert worth_measuring(evaluate(job())) == []


def test_a_relief_is_cut_just_as_deep_as_it_must_be_rounded_up():
    limits = ShopLimits(relief_mm=thou(100), relief_step_mm=thou(5))
    plans = remedies(evaluate(short_eight()), limits).plans
    assert [plan.levers for plan in plans] == [(Lever.RELIEF_INTAKE, Lever.RELIEF_EXHAUST)]
    for one in plans[0].changes:
        assert one.amount / thou(5) == pytest.approx(round(one.amount / thou(5)))
        shallower = [replace(c, amount=c.amount - thou(5)) if c is one else c for c in plans[0].changes]
        assert not clear(short_eight(), shallower)


def test_a_gasket_alone_is_the_first_plan_where_one_is_enough():
    plain = short_eight(sheet=job().sheet.edited({LimitName.QUENCH_HIGH: Edit(thou(90))}))
    found = remedies(evaluate(plain), SHOP).plans
    assert found[0].levers == (Lever.GASKET,)
    assert found[0].changes[0].gasket.name == "51"


def test_where_nothing_helps_the_check_in_the_way_is_named_with_what_it_lacks():
    # With the gasket's quench and reliefs held there is nothing but the cam, and what one valve gains the other loses.
    found = remedies(evaluate(short_eight()), ShopLimits(cam_deg=(-4.0, 4.0)))
    assert not found.plans
    assert found.obstacle.kind in (Kind.FACE_INTAKE, Kind.FACE_EXHAUST)
    assert found.lacks > 0
    # Reliefs that may not go deep enough leave it just what is still missing.
    shallow = ShopLimits(relief_mm=thou(7), relief_step_mm=thou(5))
    found = remedies(evaluate(short_eight()), shallow)
    deep = next(check for check in evaluate(short_eight()).checks if check.label == "Intake 1")
    left = deep.limit.low - deep.figure.value - thou(5)
    assert found.obstacle.label == "Intake 1"
    assert found.lacks == pytest.approx(left + 2 * math.hypot(deep.figure.u, CHANGE_U_MM))
    nothing = remedies(evaluate(short_eight()), ShopLimits())
    assert nothing.plans == ()
    assert nothing.obstacle is None
    # What is clear already, or was never read, is not put right.
    for plain in (job(), job(clay=(), deck=(), volumes=())):
        assert remedies(evaluate(plain), SHOP).plans == ()


NEARLY = ((Side.INTAKE, 82), (Side.EXHAUST, 110))


def test_a_head_cut_gives_back_the_ratio_a_thicker_gasket_took():
    wide = {LimitName.QUENCH_HIGH: Edit(thou(90)), LimitName.RATIO_LOW: Edit(9.35)}
    near = tuple(replace(clay(base, n, side), key=f"{side}{n}") for n in range(1, 9) for side, base in NEARLY)
    plain = short_eight(sheet=job().sheet.edited(wide), clay=near)
    found = remedies(evaluate(plain), ShopLimits(gaskets=GASKETS, head_mm=thou(60), cut_step_mm=thou(1)))
    plan = next(plan for plan in found.plans if set(plan.levers) == {Lever.GASKET, Lever.HEAD})
    head = next(one for one in plan.changes if one.kind is ChangeKind.HEAD_CUT)
    less = replace(head, front_mm=head.front_mm - thou(1), rear_mm=head.rear_mm - thou(1))
    assert not clear(plain, [less if one is head else one for one in plan.changes])


def test_of_two_cams_only_the_one_that_helps_is_moved():
    plain = short_eight(clay=(clay(85, 1), clay(92, 1, Side.EXHAUST)))  # the exhaust short, the intake with little over
    alike, apart = (
        remedies(evaluate(plain), ShopLimits(cam_deg=(-2.0, -4.0, 2.0, 4.0), cams_apart=apart))
        for apart in (False, True)
    )
    assert alike.plans == ()  # what the exhaust gains the intake has not got
    assert [plan.levers for plan in apart.plans] == [(Lever.CAM_EXHAUST,)]
    moved = apart.plans[0].changes[0]
    assert (moved.kind, moved.side) == (ChangeKind.CAM, Side.EXHAUST)
    assert moved.amount > 0  # an exhaust cam in advance is shut sooner before the piston arrives
    before, after = (report.of_kind(Kind.FACE_INTAKE)[0].figure for report in (evaluate(plain), apart.plans[0].report))
    assert after.value == before.value


@pytest.mark.parametrize(
    ("lifter", "chosen", "window"), [(Lifter.HYDRAULIC, 7.44, (45, 90)), (Lifter.SOLID, 7.345, (20, 75))]
)
def test_pushrods_follow_what_moves_the_head_where_they_can_be_had(lifter, chosen, window):
    low, high = (thou(end) for end in window)
    plain = short_eight(
        clay=(clay(95, 1), clay(95, 1, Side.EXHAUST)),
        pushrods=(trial(),),
        pushrod_choice=PushrodChoice(lifter=lifter, low_mm=low, aim_mm=thou(60), high_mm=high, chosen_mm=chosen * 25.4),
        sheet=short_eight().sheet.edited({LimitName.RATIO_LOW: Edit(9.0), LimitName.QUENCH_HIGH: Edit(thou(60))}),
    )
    thick = FinalGasket(name="thick", compressed_mm=thou(50), bore_mm=97.0)
    assert [check.label for check in still_in_the_way(evaluate(plain))] == ["Exhaust 1"]
    found = remedies(evaluate(plain), ShopLimits(gaskets=(thick,)))
    assert (found.plans, found.obstacle.kind) == ((), Kind.PUSHROD)  # the head is 14 thou up: preload or lash is off
    (plan,) = remedies(evaluate(plain), ShopLimits(gaskets=(thick,), pushrod_step_mm=thou(10))).plans
    assert plan.levers == (Lever.GASKET, Lever.PUSHRODS)
    assert plan.changes[1].amount == pytest.approx(thou(10))
    assert supposed(plain, plan.what_if).pushrods_chosen.chosen_mm == pytest.approx((chosen + 0.010) * 25.4)
    assert all(not clear(plain, [one]) for one in plan.changes)


def test_pushrods_that_were_never_chosen_cannot_be_longer():
    with pytest.raises(FaultsError, match="choose their length first"):
        supposed(short_eight(), WhatIf(changes=(change(ChangeKind.PUSHRODS, 10),)))


def test_edges_are_widened_and_separate_barrels_raised_by_what_they_need():
    tight = job(
        sheet=job().sheet.edited({LimitName.RADIAL: Edit(thou(50))}),
        clay=(*job().clay, clay(45, gap=Gap.RADIAL), clay(60, side=Side.EXHAUST, gap=Gap.RADIAL)),
    )
    plans = remedies(evaluate(tight), ShopLimits(edge_mm=2.0, relief_step_mm=thou(5))).plans
    assert [plan.levers for plan in plans] == [(Lever.EDGE_INTAKE,)]
    raised = job(
        engine=barrels(),
        final_shims=(BaseShims(total_mm=0.5),),
        mockups=(mockup(shims_mm=0.5),),
        deck=(deck(1, 4, shims_mm=0.5), deck(2, 5, shims_mm=0.5)),
        sheet=job().sheet.edited({LimitName.QUENCH_HIGH: Edit(3.0)}),
        clay=tuple(clay(75, c, s) if s is Side.INTAKE else clay(115, c, s) for c in (1, 2) for s in Side),
    )
    plans = remedies(evaluate(raised), ShopLimits(shims_mm=(0.1, 0.2, 0.3, 0.5, 0.8))).plans
    assert [plan.levers for plan in plans] == [(Lever.SHIMS,)]
    assert plans[0].changes[0].front_mm == pytest.approx(0.3)
    assert supposed(raised, plans[0].what_if).final_shims[0].total_mm == pytest.approx(0.8)


def test_an_edge_under_another_gasket_wanders_as_evaluate_says():
    leaning = barrels(intake=inclined(20.0), exhaust=inclined(20.0))
    edge = clay(60, gap=Gap.RADIAL)
    plain = job(
        engine=leaning,
        final_shims=(BaseShims(total_mm=0.7),),
        mockups=(mockup(shims_mm=0.5),),
        sheet=job().sheet.edited({LimitName.RADIAL: Edit(thou(40))}),
        clay=(*job().clay, edge),
    )
    changes = (change(ChangeKind.SHIMS, 10), change(ChangeKind.GASKET, gasket=GASKETS[0]))
    after = evaluate(supposed(plain, WhatIf(changes=changes)))
    surface = Surface(evaluate(plain))
    _, u = surface.predict(Amounts(shims_mm=np.array([thou(10)]), gasket_mm=np.array([thou(-6)])))
    at = next(at for at, check in enumerate(surface.checks) if check.kind is Kind.RADIAL)
    assert u[0, at] == pytest.approx(after.of_kind(Kind.RADIAL)[0].figure.u, abs=1e-9)


@pytest.mark.parametrize(
    ("wrong", "path"),
    [
        ({"relief_mm": 11}, "relief_mm"),
        ({"ratios": (4.0,)}, "ratios"),
        ({"cam_deg": (40.0,)}, "cam_deg"),
        ({"cam_deg": (float("nan"),)}, "cam_deg"),
        ({"cut_step_mm": 0}, "relief_step_mm"),
        ({"gaskets": GASKETS * 50, "cam_deg": tuple(range(20)), "ratios": (1.5,) * 5}, "gaskets"),
    ],
)
def test_limits_no_shop_has_are_refused_at_their_place(wrong, path):
    with pytest.raises(FaultsError) as caught:
        ShopLimits(**wrong)
    assert [fault.path for fault in caught.value.faults] == [path]


# --- what-ifs --------------------------------------------------------------------------------------------------------


def test_a_what_if_lays_every_kind_of_check_beside_what_it_would_be_and_leaves_the_job_alone():
    plain = short_eight()
    report = evaluate(plain)
    what = WhatIf(changes=(change(ChangeKind.GASKET, gasket=GASKETS[4]), change(ChangeKind.CAM, -2)))
    found = {one.kind: one for one in effects(report, supposed(plain, what))}
    assert found[Kind.QUENCH].after.figure.value - found[Kind.QUENCH].before.figure.value == pytest.approx(thou(15))
    assert found[Kind.RATIO].after.figure.value < found[Kind.RATIO].before.figure.value
    assert plain.final_gasket.compressed_mm == pytest.approx(thou(36))
    assert [(one.order, one.supposed) for one in steps_to_take(what)] == [(None, False)] * 2


def test_other_pistons_are_supposed_to_have_the_same_reliefs_until_they_are_really_in():
    other = replace(change(ChangeKind.PISTONS, 10, order=None), amount=-2.0)
    what = evaluate(supposed(short_eight(), WhatIf(changes=(other,))))
    face = what.of_kind(Kind.FACE_INTAKE)[0]
    assert face.figure.value == pytest.approx(thou(73) - thou(10) * math.cos(math.radians(12.0)))
    assert "same reliefs" in face.governing.cautions[0]
    assert what.of_kind(Kind.RATIO)[0].figure.value > evaluate(short_eight()).of_kind(Kind.RATIO)[0].figure.value
    real = evaluate(done(short_eight(), other))
    assert real.of_kind(Kind.FACE_INTAKE)[0].figure is None
    assert real.of_kind(Kind.RATIO)[0].missing == "no piston volume"


def test_speed_and_rods_move_the_running_estimate_and_no_check():
    plain = short_eight(running=Running(compression_height_mm=40.0))
    after = evaluate(supposed(plain, WhatIf(rpm=8000.0, rod=Material.WROUGHT)))
    before = evaluate(plain)
    assert after.budgets[1].total_mm < before.budgets[1].total_mm
    assert [check.figure for check in after.checks] == [check.figure for check in before.checks]
    with pytest.raises(FaultsError, match="One of"):
        WhatIf(rod=Material.IRON)
    with pytest.raises(FaultsError, match="From 0"):
        WhatIf(rpm=1e6)


@pytest.mark.parametrize("name", list(JOBS))
def test_the_curve_before_and_after_has_each_figure_at_its_minimum(name):
    plain = JOBS[name]
    before = evaluate(plain)
    after = evaluate(supposed(plain, WhatIf(changes=(change(ChangeKind.CAM, 4), change(ChangeKind.ROCKERS, 0.1)))))
    curves = curve_changes(before, after)
    assert [curve.side for curve in curves] == list(Side)
    for curve in curves:
        was, would = (next(c for c in one.checks if c.label == curve.label) for one in (before, after))
        assert curve.before_mm.min() == pytest.approx(was.figure.value, abs=0.005)
        assert curve.after_mm.min() == pytest.approx(would.figure.value, abs=0.005)
        assert curve.full_lift_mm > 0.5
        moved = would.governing.ladder[-1]
        assert moved.text.startswith("rockers 1.6")
        assert curve.at_closest_mm == pytest.approx(-moved.delta.value, abs=1e-6)


def test_running_lash_is_told_and_never_counted():
    plain = short_eight(cam_card=replace(CARD, intake_lash_mm=thou(16)))
    assert lash_left_mm(evaluate(plain), Side.INTAKE) == pytest.approx(thou(16))
    assert lash_left_mm(evaluate(short_eight(cam_card=None)), Side.INTAKE) is None
    more = evaluate(supposed(plain, WhatIf(changes=(change(ChangeKind.LASH, 4, side=Side.INTAKE),))))
    assert lash_left_mm(more, Side.INTAKE) == pytest.approx(thou(20))
    assert more.of_kind(Kind.FACE_INTAKE)[0].figure == evaluate(plain).of_kind(Kind.FACE_INTAKE)[0].figure
