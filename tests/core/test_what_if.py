"""What-ifs: every kind of check before and after, curves, estimate; the job unchanged."""

import math
from dataclasses import replace

import pytest

from mockup.base.faults import FaultsError
from mockup.changes.pistons import PISTONS_CHANGED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED, LASH_CHANGED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.running import Material, Running
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.plans.what_if import WhatIf, curve_changes, done, effects, lash_left_mm, steps_to_take, supposed
from tests.making import CARD, change, short_eight, thou
from tests.making_jobs import GASKETS, JOBS


def test_pushrods_that_were_never_chosen_cannot_be_longer():
    with pytest.raises(FaultsError, match="choose their length first"):
        supposed(short_eight(), WhatIf(changes=(change(PUSHRODS_CHANGED, 10),)))


def test_a_what_if_lays_every_kind_of_check_beside_what_it_would_be_and_leaves_the_job_alone():
    plain = short_eight()
    report = evaluate(plain)
    what = WhatIf(changes=(change(GASKET_CHANGED, gasket=GASKETS[4]), change(CAM_MOVED, -2)))
    found = {one.kind: one for one in effects(report, supposed(plain, what))}
    assert found[QUENCH_CHECK].after.figure.value - found[QUENCH_CHECK].before.figure.value == pytest.approx(thou(15))
    assert found[RATIO_CHECK].after.figure.value < found[RATIO_CHECK].before.figure.value
    assert plain.final_gasket.compressed_mm == pytest.approx(thou(36))
    assert [(one.order, one.supposed) for one in steps_to_take(what)] == [(None, False)] * 2


def test_other_pistons_are_supposed_to_have_the_same_reliefs_until_they_are_really_in():
    other = replace(change(PISTONS_CHANGED, 10, order=None), amount=-2.0)
    what = evaluate(supposed(short_eight(), WhatIf(changes=(other,))))
    face = what.of_kind(FACE_INTAKE_CHECK)[0]
    assert face.figure.value == pytest.approx(thou(73) - thou(10) * math.cos(math.radians(12.0)))
    assert "same reliefs" in face.governing.cautions[0]
    assert what.of_kind(RATIO_CHECK)[0].figure.value > evaluate(short_eight()).of_kind(RATIO_CHECK)[0].figure.value
    real = evaluate(done(short_eight(), other))
    assert real.of_kind(FACE_INTAKE_CHECK)[0].figure is None
    assert real.of_kind(RATIO_CHECK)[0].missing == "no piston volume"


def test_speed_and_rods_move_the_running_estimate_and_no_check():
    plain = short_eight(running=Running(compression_height_mm=40.0))
    after = evaluate(supposed(plain, WhatIf(rpm=8000.0, rod=Material.WROUGHT)))
    before = evaluate(plain)
    assert after.budgets[1].total_mm < before.budgets[1].total_mm
    assert [check.figure for check in after.checks] == [check.figure for check in before.checks]
    only_rods = supposed(plain, WhatIf(rod=Material.WROUGHT)).running
    assert (only_rods.rpm, only_rods.rod) == (plain.running.rpm, Material.WROUGHT)
    assert supposed(plain, WhatIf(rpm=8000.0)).running == replace(plain.running, rpm=8000.0)
    with pytest.raises(FaultsError, match="One of"):
        WhatIf(rod=Material.IRON)
    with pytest.raises(FaultsError, match="From 0"):
        WhatIf(rpm=1e6)


@pytest.mark.parametrize("name", list(JOBS))
def test_the_curve_before_and_after_has_each_figure_at_its_minimum(name):
    plain = JOBS[name]
    before = evaluate(plain)
    after = evaluate(supposed(plain, WhatIf(changes=(change(CAM_MOVED, 4), change(ROCKERS_CHANGED, 0.1)))))
    curves = curve_changes(before, after)
    assert [curve.side for curve in curves] == list(Side)
    for curve in curves:
        was, would = (next(c for c in one.checks if c.label == curve.label) for one in (before, after))
        assert curve.before_mm.min() == pytest.approx(was.figure.value, abs=0.005)
        assert curve.after_mm.min() == pytest.approx(would.figure.value, abs=0.005)
        assert curve.full_lift_mm > 0.5
        moved = would.governing.corrections[-1]
        assert moved.text.startswith("rockers 1.6")
        assert curve.at_closest_mm == pytest.approx(-moved.delta.value, abs=1e-6)


def test_running_lash_is_told_and_never_counted():
    plain = short_eight(cam_card=replace(CARD, intake_lash_mm=thou(16)))
    assert lash_left_mm(evaluate(plain), Side.INTAKE) == pytest.approx(thou(16))
    assert lash_left_mm(evaluate(short_eight(cam_card=None)), Side.INTAKE) is None
    more = evaluate(supposed(plain, WhatIf(changes=(change(LASH_CHANGED, 4, side=Side.INTAKE),))))
    assert lash_left_mm(more, Side.INTAKE) == pytest.approx(thou(20))
    assert more.of_kind(FACE_INTAKE_CHECK)[0].figure == evaluate(plain).of_kind(FACE_INTAKE_CHECK)[0].figure
