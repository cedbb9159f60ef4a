"""What one unit gains, and how likely each check is to hold."""

from dataclasses import replace

import numpy as np
import pytest

from mockup.base.faults import FaultsError
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.train import CAM_MOVED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.plans.batch import Batch
from mockup.plans.sensitivity import Tolerances, gains, nudges, tolerance_stack
from mockup.plans.what_if import WhatIf, supposed
from tests.making import CARD, barrels, change, clay, job, short_eight, thou
from tests.making_readings import trial

NONE = Tolerances(gasket_mm=0, cam_deg=0, ratio=0, relief_mm=0, deck_mm=0)


def test_each_worth_is_what_one_unit_really_changes():
    choice = PushrodChoice(low_mm=thou(20), aim_mm=thou(60), high_mm=thou(80), chosen_mm=7.44 * 25.4)
    plain = short_eight(pushrods=(trial(),), pushrod_choice=choice)
    many = Batch(evaluate(plain))
    by_words = {one.step.words: one for one in gains(many, nudges(thou(1), plain))}
    made = {
        "cam advanced": change(CAM_MOVED, 1.0),
        "rocker ratio": change(ROCKERS_CHANGED, 0.1),
        "off the head": change(HEAD_CUT, 1),
        "off the deck": change(DECK_CUT, 1),
        "pushrods longer": change(PUSHRODS_CHANGED, 1),
        "intake reliefs deeper": change(RELIEF_DEEPENED, 1, side=Side.INTAKE),
    }
    for words, one in made.items():
        after = {check.label: check.figure for check in evaluate(supposed(plain, WhatIf(changes=(one,)))).checks}
        for check, gained in zip(many.checks, by_words[words].gains, strict=True):
            assert gained == pytest.approx(after[check.label].value - check.figure.value, abs=1e-6), (
                words,
                check.label,
            )


def test_only_what_an_engine_has_is_asked_after():
    def asked(plain):
        return {str(one.lever) for one in nudges(thou(1), plain)}

    assert "pushrods" not in asked(short_eight())
    assert asked(short_eight()) - asked(job(engine=barrels())) == {"deck cut"}
    assert asked(job(engine=barrels())) - asked(short_eight()) == {"base shims"}


def test_what_cannot_be_known_without_a_lobe_is_left_open():
    plain = short_eight(cam_card=None)
    many = Batch(evaluate(plain))
    first = next(one for one in gains(many, nudges(thou(1), plain)) if one.step.words == "cam advanced")
    by_kind = {check.kind: gain for check, gain in zip(many.checks, first.gains, strict=True)}
    assert by_kind[FACE_INTAKE_CHECK] is None
    assert by_kind[QUENCH_CHECK] == 0


def test_the_stack_repeats_with_its_seed_and_tolerances_make_the_far_side_likelier():
    many = Batch(evaluate(short_eight()))
    one, two = (tolerance_stack(many, Tolerances(), draws=20_000) for _ in range(2))
    assert one == two
    assert tolerance_stack(many, Tolerances(), draws=20_000, seed=2) != one
    exact = tolerance_stack(many, NONE, draws=20_000)
    wide = {each.check.label: each.holds for each in one.each}
    for each in exact.each:
        if each.check.kind is FACE_EXHAUST_CHECK and each.holds > 0.6:
            assert wide[each.check.label] < each.holds
    assert one.all_hold <= min(wide.values())


def test_two_cams_err_apart_so_that_both_sides_hold_less_often_together():
    alone = replace(NONE, cam_deg=4.0)
    # Both sides at the edge: one cam that errs helps the one as it hurts the other, two may hurt both or help both.
    tight = {"clay": (clay(86, 1), clay(106, 1, Side.EXHAUST))}
    one, two = (
        tolerance_stack(Batch(evaluate(short_eight(cam_card=replace(CARD, two_cams=apart), **tight))), alone)
        for apart in (False, True)
    )
    shares = [[each.holds for each in stack.each] for stack in (one, two)]
    assert shares[0] == pytest.approx(shares[1], abs=0.005)
    assert two.all_hold == pytest.approx(np.prod(shares[1]), abs=0.005)  # closed form of independent checks
    assert one.all_hold < two.all_hold - 0.02


def test_a_tolerance_no_shop_has_is_refused():
    with pytest.raises(FaultsError, match="From 0 to 6"):
        Tolerances(cam_deg=9)
