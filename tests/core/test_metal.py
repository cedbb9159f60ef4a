"""Metal on metal is never offered: growth, stretch, missing shims, cut crowns."""

import math

import numpy as np
import pytest

from mockup.advice.outlook import verdict_text
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED
from mockup.checks.quench import QUENCH_CHECK
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.running import Running
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.limits.schools import READY_MADE
from mockup.plans.batch import Batch
from mockup.plans.gasket_to_order import gasket_to_order
from mockup.plans.gaskets import gasket_options
from mockup.plans.levers import Lever, ShopLimits
from mockup.plans.remedies import remedies
from mockup.plans.room import reach_of, rooms
from mockup.plans.room_map import room_map
from mockup.plans.search import Search
from mockup.plans.what_if import WhatIf, supposed
from mockup.report import Verdict
from tests.making import CARD, barrels, change, clay, deck, engine, inclined, job, thou
from tests.making_readings import sweep

RUNNING = Running(rpm=6500.0, reciprocating_g=600.0, rod_area_mm2=150.0, compression_height_mm=38.0)
GASKETS = tuple(FinalGasket(name=f"{t}", compressed_mm=thou(t), bore_mm=97.0) for t in (20, 28, 45))
ANY = ShopLimits(gaskets=GASKETS, cuts_mm={DECK_CUT: 1.5, HEAD_CUT: 1.5})


def proud(limits="makers", **changes):
    """Crowns 30 out of the hole under a gasket of 20, on limits that know no quench."""
    plain = {"limits": READY_MADE[limits], "deck": (deck(1, -30), deck(2, -30)), "volumes": ()}
    return job(**plain | {"final_gasket": FinalGasket(compressed_mm=thou(51), bore_mm=97.0)} | changes)


@pytest.mark.parametrize("limits", ["small-single", "loaded", "makers"])
def test_without_a_quench_window_metal_on_metal_is_still_short(limits):
    report = evaluate(proud(limits, final_gasket=GASKETS[1]))
    quench = report.of_kind(QUENCH_CHECK)
    assert [check.state for check in quench] == [State.SHORT, State.SHORT]
    assert report.verdict is Verdict.NOT_CLEAR
    assert "Not clear" in verdict_text(report)
    assert any("metal will meet metal" in step.text for step in report.steps)


def test_a_quench_is_held_against_what_growth_and_stretch_use():
    loose, known = evaluate(proud()), evaluate(proud(running=RUNNING))
    uses = known.of_kind(QUENCH_CHECK)[0].floor
    assert uses == pytest.approx(-min(one.total_mm for one in known.budgets.values()))
    assert loose.of_kind(QUENCH_CHECK)[0].floor == 0.0
    # 21 thou cold: with nothing known it is cautioned, with 21 used up it is short.
    assert any("may hit the head" in one for one in loose.of_kind(QUENCH_CHECK)[0].governing.cautions)
    near = evaluate(proud(running=RUNNING, final_gasket=FinalGasket(compressed_mm=thou(30) + uses, bore_mm=97.0)))
    assert [check.state for check in near.of_kind(QUENCH_CHECK)] == [State.CLOSE, State.CLOSE]


def test_no_plan_is_clear_with_the_crown_in_the_head():
    # Valves that are short, so that something is looked for; the thin gaskets would put the crown into the head.
    short = proud(clay=(clay(95, 1), clay(60, 1, Side.EXHAUST)), limits="small-single")
    found = remedies(evaluate(short), ANY)
    for plan in found.plans:
        assert all(not check.is_metal for check in plan.report.of_kind(QUENCH_CHECK))
    high = remedies(evaluate(proud(final_gasket=GASKETS[0])), ANY)
    assert all(check.figure.value > 0 for plan in high.plans for check in plan.report.of_kind(QUENCH_CHECK))


def test_neither_room_nor_map_reaches_into_the_metal():
    report = evaluate(proud(limits="small-single", clay=(clay(110, 1), clay(130, 1, Side.EXHAUST))))
    many = Batch(report)
    gasket, cut = Lever(GASKET_CHANGED), Lever(DECK_CUT)
    room = next(one for one in rooms(many) if one.lever == cut)
    # 21 thou of quench, and U of it: no more than that can be cut.
    assert room.high < thou(21)
    found = room_map(many, gasket, cut, 15)
    rows, columns = np.nonzero(found.clear)
    quench = thou(21) + found.x[columns] - found.y[rows]
    assert len(rows) > 5
    assert quench.min() > 0


def test_no_gasket_to_order_and_none_on_the_shelf_fits_below_what_is_used():
    report = evaluate(proud(running=RUNNING, limits="street", deck=(deck(1, 5), deck(2, 5))))
    order, uses = gasket_to_order(report), report.of_kind(QUENCH_CHECK)[0].floor
    assert order.thinnest_mm + thou(5) >= uses
    fits = [one for one in gasket_options(report, GASKETS) if one.fits]
    assert all(min(one.quench_mm) > uses for one in fits)


@pytest.mark.parametrize(("target", "outside"), [(40, False), (35, False), (55, True), (20, True)])
def test_a_quench_typed_outside_the_limits_is_said_to_be(target, outside):
    assert gasket_to_order(evaluate(job()), thou(target)).target_is_outside is outside


def test_no_shims_are_less_than_nothing_in_room_map_or_plan():
    report = evaluate(
        job(engine=barrels(), final_shims=(BaseShims(total_mm=0.1),), deck=(deck(1, 4), deck(2, 4)), clay=())
    )
    many = Batch(report)
    low, high = reach_of(many, Lever(SHIMS_CHANGED))
    assert low == pytest.approx(-0.1)
    assert high == pytest.approx(1.5)
    search = Search(report, ShopLimits(shims_mm=(-0.2, -0.1, 0.2)))
    assert sorted(search._options()[Lever(SHIMS_CHANGED)]) == [-0.1, 0.0, 0.2]
    for room in rooms(many):
        if room.lever == Lever(SHIMS_CHANGED) and room.low is not None:
            evaluate(supposed(report.job, WhatIf(changes=(change(SHIMS_CHANGED, room.low),))))


@pytest.mark.parametrize("angle", [0.0, 22.0])
def test_a_relief_takes_its_depth_along_the_bore_off_the_crown_on_every_page(angle):
    row = inclined(angle)
    # 22 degrees: 100 along the valve is 108 along the bore.
    assert row.off_the_crown_mm(thou(100)) == pytest.approx(thou(100) / math.cos(math.radians(angle)))
    short = job(engine=engine(intake=row), clay=(clay(40, 1),), deck=(), volumes=())
    search = Search(evaluate(short), ShopLimits(cuts_mm={RELIEF_DEEPENED: 1.0}))
    deepest = search.cuts[Lever(RELIEF_DEEPENED, Side.INTAKE)]
    assert row.off_the_crown_mm(deepest) == pytest.approx(1.0)


def test_the_map_is_what_evaluate_says_where_another_finding_governs():
    # Clay governs as it stands, a little under the sweep; a moved cam takes less from it than from the sweep.
    swept = tuple(sweep(at, c) for at, c in ((0, 100.5), (5, 90.5), (10, 97), (15, 121), (20, 160)))
    made = job(clay=(clay(89, 1),), sweeps=swept, deck=(), volumes=(), cam_card=CARD)
    report = evaluate(made)
    many, cam = Batch(report), Lever(CAM_MOVED)
    moves = np.linspace(-8.0, 8.0, 9)
    figures = many.figures({cam: moves})
    at = [check.label for check in many.checks].index("Intake 1")
    governed = set()
    for row, degrees in enumerate(moves):
        moved = WhatIf(changes=(change(CAM_MOVED, degrees),)) if degrees else WhatIf()
        now = next(check for check in evaluate(supposed(made, moved)).checks if check.label == "Intake 1")
        governed.add(now.governing.by_clay)
        assert figures.value[row, at] == pytest.approx(now.figure.value, abs=1e-6)
        assert np.broadcast_to(figures.expanded, figures.value.shape)[row, at] == pytest.approx(
            now.figure.expanded, abs=1e-6
        )
    assert governed == {True, False}
