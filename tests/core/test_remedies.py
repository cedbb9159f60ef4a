"""Remedies: plans that clear everything, no deeper than needed, no part in vain."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mockup.base.faults import FaultsError
from mockup.changes.change import CHANGE_U_MM
from mockup.changes.cuts import HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.checks.compression import RATIO_LOW_LIMIT
from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.checks.quench import QUENCH_HIGH_LIMIT
from mockup.checks.valve_limits import RADIAL_LIMIT
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.pushrods import Lifter, PushrodChoice
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State, judge
from mockup.limits.limit_set import Edit
from mockup.plans.levers import Lever, ShopLimits
from mockup.plans.remedies import remedies, still_in_the_way, worth_measuring
from mockup.plans.search import GASKET, ROCKERS, Search
from mockup.plans.what_if import WhatIf, supposed
from mockup.quantity.value import Value
from mockup.readings.clay import ClayReading, Gap
from tests.making import barrels, change, clay, deck, job, mockup, short_eight, thou
from tests.making_jobs import GASKETS
from tests.making_readings import trial

SHOP = ShopLimits(
    gaskets=GASKETS,
    cam_deg=(-8.0, -4.0, -2.0, 2.0, 4.0, 8.0),
    ratios=(1.4, 1.45, 1.55),
    cuts_mm={RELIEF_DEEPENED: thou(100), HEAD_CUT: thou(40)},
    relief_step_mm=thou(5),
    cut_step_mm=thou(1),
)


def clear(plain, changes):
    return not still_in_the_way(evaluate(supposed(plain, WhatIf(changes=tuple(changes)))))


@settings(max_examples=12)
@given(st.integers(66, 82), st.integers(92, 112), st.sampled_from([30, 40, 51]), st.sampled_from([8.8, 9.3, 9.4]))
def test_every_plan_clears_everything_and_undoing_any_part_does_not(intake, exhaust, gasket, low):
    faces = {Side.INTAKE: intake, Side.EXHAUST: exhaust}
    edits = {**short_eight().limits.edits, RATIO_LOW_LIMIT: Edit(low)}
    plain = short_eight(
        clay=tuple(
            replace(clay(base + n, n, side), key=f"{side}{n}") for n in range(1, 9) for side, base in faces.items()
        ),
        final_gasket=FinalGasket(compressed_mm=thou(gasket), bore_mm=97.0),
        limits=short_eight().limits.edited(edits),
    )
    found = remedies(evaluate(plain), SHOP)
    assert found.plans or found.obstacle or clear(plain, ())
    work = [(sum(lever.remedy.work for lever in plan.levers), len(plan.levers)) for plan in found.plans]
    assert work == sorted(work)
    assert len({plan.levers for plan in found.plans}) == len(work)
    for plan in found.plans:
        assert clear(plain, plan.changes)
        for left_out in plan.changes:
            rest = [one for one in plan.changes if one is not left_out]
            assert not (rest and clear(plain, rest))


def test_what_is_too_close_to_call_is_worth_measuring_to_within_its_margin():
    plain = evaluate(short_eight())
    found = {check.label: known_to for check, known_to in worth_measuring(plain)}
    # Intake 5 and Exhausts 1 to 3 lie below their minimum: no measuring makes room.
    assert "Intake 5" not in found
    assert found["Exhaust 6"] == pytest.approx(thou(3))
    better = next(check for check in plain.checks if check.label == "Exhaust 6")
    assert judge(Value(better.figure.value, found["Exhaust 6"] / 2), better.limit) is State.CLEAR
    assert worth_measuring(evaluate(job())) == []


def test_a_relief_is_cut_just_as_deep_as_it_must_be_rounded_up():
    limits = ShopLimits(cuts_mm={RELIEF_DEEPENED: thou(100)}, relief_step_mm=thou(5))
    plans = remedies(evaluate(short_eight()), limits).plans
    assert [plan.levers for plan in plans] == [
        (Lever(RELIEF_DEEPENED, Side.INTAKE), Lever(RELIEF_DEEPENED, Side.EXHAUST))
    ]
    for one in plans[0].changes:
        assert one.amount / thou(5) == pytest.approx(round(one.amount / thou(5)))
        shallower = [replace(c, amount=c.amount - thou(5)) if c is one else c for c in plans[0].changes]
        assert not clear(short_eight(), shallower)


def test_a_gasket_alone_is_the_first_plan_where_one_is_enough():
    plain = short_eight(limits=job().limits.edited({QUENCH_HIGH_LIMIT: Edit(thou(90))}))
    found = remedies(evaluate(plain), SHOP).plans
    assert found[0].levers == (Lever(GASKET_CHANGED),)
    assert found[0].changes[0].gasket.name == "60"


def test_where_nothing_helps_the_check_in_the_way_is_named_with_what_it_lacks():
    # With the gasket's quench and reliefs held there is nothing but the cam, and what one valve gains the other loses.
    found = remedies(evaluate(short_eight()), ShopLimits(cam_deg=(-4.0, 4.0)))
    assert not found.plans
    assert found.obstacle.kind in (FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK)
    assert found.lacks > 0
    # Reliefs that may not go deep enough leave it just what is still missing.
    shallow = ShopLimits(cuts_mm={RELIEF_DEEPENED: thou(7)}, relief_step_mm=thou(5))
    found = remedies(evaluate(short_eight()), shallow)
    deep = next(check for check in evaluate(short_eight()).checks if check.label == "Intake 1")
    left = deep.limit.low - deep.figure.value - thou(5)
    assert found.obstacle.label == "Intake 1"
    assert found.lacks == pytest.approx(left + (deep.figure + Value(0.0, CHANGE_U_MM)).expanded, abs=1e-6)
    nothing = remedies(evaluate(short_eight()), ShopLimits())
    assert nothing.plans == ()
    assert nothing.obstacle is None
    # What is clear already, or was never read, is not put right.
    for plain in (job(), job(clay=(), deck=(), volumes=())):
        assert remedies(evaluate(plain), SHOP).plans == ()


NEARLY = ((Side.INTAKE, 87), (Side.EXHAUST, 115))


def test_a_head_cut_gives_back_the_ratio_a_thicker_gasket_took():
    wide = {QUENCH_HIGH_LIMIT: Edit(thou(90)), RATIO_LOW_LIMIT: Edit(9.35)}
    near = tuple(replace(clay(base, n, side), key=f"{side}{n}") for n in range(1, 9) for side, base in NEARLY)
    plain = short_eight(limits=job().limits.edited(wide), clay=near)
    found = remedies(evaluate(plain), ShopLimits(gaskets=GASKETS, cuts_mm={HEAD_CUT: thou(60)}, cut_step_mm=thou(1)))
    plan = next(plan for plan in found.plans if set(plan.levers) == {Lever(GASKET_CHANGED), Lever(HEAD_CUT)})
    head = next(one for one in plan.changes if one.kind is HEAD_CUT)
    less = replace(head, front_mm=head.front_mm - thou(1), rear_mm=head.rear_mm - thou(1))
    assert not clear(plain, [less if one is head else one for one in plan.changes])


def test_of_two_cams_only_the_one_that_helps_is_moved():
    plain = short_eight(clay=(clay(90, 1), clay(97, 1, Side.EXHAUST)))  # the exhaust short, the intake with little over
    alike, apart = (
        remedies(evaluate(plain), ShopLimits(cam_deg=(-2.0, -4.0, 2.0, 4.0), cams_apart=apart))
        for apart in (False, True)
    )
    assert alike.plans == ()  # what the exhaust gains the intake has not got
    assert [plan.levers for plan in apart.plans] == [(Lever(CAM_MOVED, Side.EXHAUST),)]
    moved = apart.plans[0].changes[0]
    assert (moved.kind, moved.side) == (CAM_MOVED, Side.EXHAUST)
    assert moved.amount > 0  # an exhaust cam in advance is shut sooner before the piston arrives
    before, after = (report.of_kind(FACE_INTAKE_CHECK)[0].figure for report in (evaluate(plain), apart.plans[0].report))
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
        limits=short_eight().limits.edited({RATIO_LOW_LIMIT: Edit(9.0), QUENCH_HIGH_LIMIT: Edit(thou(60))}),
    )
    thick = FinalGasket(name="thick", compressed_mm=thou(50), bore_mm=97.0)
    assert [check.label for check in still_in_the_way(evaluate(plain))] == ["Exhaust 1"]
    found = remedies(evaluate(plain), ShopLimits(gaskets=(thick,)))
    assert (found.plans, found.obstacle.kind) == ((), PUSHROD_CHECK)  # the head is 14 thou up: preload or lash is off
    (plan,) = remedies(evaluate(plain), ShopLimits(gaskets=(thick,), pushrod_step_mm=thou(10))).plans
    assert plan.levers == (Lever(GASKET_CHANGED), Lever(PUSHRODS_CHANGED))
    assert plan.changes[1].amount == pytest.approx(thou(10))
    assert supposed(plain, plan.what_if).pushrods_chosen.chosen_mm == pytest.approx((chosen + 0.010) * 25.4)
    assert all(not clear(plain, [one]) for one in plan.changes)


def test_edges_are_widened_and_separate_barrels_raised_by_what_they_need():
    tight = job(
        limits=job().limits.edited({RADIAL_LIMIT: Edit(thou(50))}),
        clay=(*job().of(ClayReading), clay(45, gap=Gap.RADIAL), clay(60, side=Side.EXHAUST, gap=Gap.RADIAL)),
    )
    plans = remedies(evaluate(tight), ShopLimits(cuts_mm={RELIEF_WIDENED: 2.0}, relief_step_mm=thou(5))).plans
    assert [plan.levers for plan in plans] == [(Lever(RELIEF_WIDENED, Side.INTAKE),)]
    raised = job(
        engine=barrels(),
        final_shims=(BaseShims(total_mm=0.5),),
        mockups=(mockup(shims_mm=0.5),),
        deck=(deck(1, 4, shims_mm=0.5), deck(2, 5, shims_mm=0.5)),
        limits=job().limits.edited({QUENCH_HIGH_LIMIT: Edit(3.0)}),
        clay=tuple(clay(80, c, s) if s is Side.INTAKE else clay(115, c, s) for c in (1, 2) for s in Side),
    )
    plans = remedies(evaluate(raised), ShopLimits(shims_mm=(0.1, 0.2, 0.3, 0.5, 0.8))).plans
    assert [plan.levers for plan in plans] == [(Lever(SHIMS_CHANGED),)]
    assert plans[0].changes[0].front_mm == pytest.approx(0.3)
    assert supposed(raised, plans[0].what_if).final_shims[0].total_mm == pytest.approx(0.8)


@pytest.mark.parametrize(
    ("wrong", "path"),
    [
        ({"cuts_mm": {RELIEF_DEEPENED: 11}}, "cuts_mm.relief deeper"),
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


def test_pushrods_that_are_an_inch_off_are_no_remedy_but_a_doubt():
    choice = PushrodChoice(low_mm=thou(20), aim_mm=thou(60), high_mm=thou(80), chosen_mm=6.4 * 25.4)
    plain = short_eight(clay=(), pushrods=(trial(),), pushrod_choice=choice)
    found = remedies(evaluate(plain), ShopLimits(pushrod_step_mm=thou(50)))
    assert (found.plans, found.obstacle) == ((), None)


@settings(max_examples=25, deadline=None)
@given(
    st.sampled_from(list(Lifter)),
    st.integers(-30, 30),
    st.integers(5, 40),
    st.integers(10, 60),
    st.sampled_from([0.0, 0.2]),
    st.lists(st.integers(-6, 6), min_size=1, max_size=3),
)
def test_pushrods_come_right_by_the_fewest_steps_there_are(lifter, off, step, width, more_ratio, spread):
    # Independent method: every number of steps either way is tried on evaluate, the fewest that is clear is the answer.
    trials = tuple(
        replace(trial(), key=f"r{n}", place=Place(n, Side.INTAKE), closed_mm=6.8 * 25.4 + thou(extra))
        for n, extra in enumerate(spread, start=1)
    )
    zero = 7.375 * 25.4 + thou(off)
    window = {"low_mm": thou(20), "aim_mm": thou(20), "high_mm": thou(20 + 30 + width)}
    plain = short_eight(
        clay=(), pushrods=trials, pushrod_choice=PushrodChoice(lifter=lifter, **window, chosen_mm=round(zero, 6))
    )
    search = Search(evaluate(plain), ShopLimits(pushrod_step_mm=thou(step)))
    found = float(search.longer_pushrods({GASKET: np.zeros(1), ROCKERS: np.array([more_ratio])})[0])

    def is_clear(steps):
        made = [change(ROCKERS_CHANGED, more_ratio)] if more_ratio else []
        made += [change(PUSHRODS_CHANGED, steps * step)] if steps else []
        after = evaluate(supposed(plain, WhatIf(changes=tuple(made))))
        return all(check.state is State.CLEAR for check in after.of_kind(PUSHROD_CHECK))

    clear_by = [steps for steps in sorted(range(-7, 8), key=abs) if is_clear(steps)]
    if clear_by and abs(clear_by[0]) < 7:
        assert abs(found) == pytest.approx(thou(abs(clear_by[0]) * step), abs=1e-9)
        assert is_clear(round(found / thou(step)))
