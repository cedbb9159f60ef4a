"""Pistons to order, on random engines: with them in, evaluate meets every target."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mockup.base.faults import FaultsError
from mockup.changes.change import Change
from mockup.changes.cuts import DECK_CUT
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valve_limits import RADIAL_LIMIT
from mockup.checks.valves import FACE_KINDS, RADIAL_CHECK
from mockup.engine.gasket import FinalGasket
from mockup.engine.running import Running
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.evaluate import evaluate
from mockup.limits.limit_set import Edit
from mockup.limits.schools import READY_MADE
from mockup.plans.pistons_to_order import Wanted, pistons_to_order
from mockup.readings.clay import Gap
from tests.making import clay, cut, deck, engine, job, thou, volumes

SHEET = READY_MADE["street-floor"]
ENGINES = 500


def drawn(seed):
    """An engine as a small shop might have it: sizes, lean, decks and clay by chance."""
    rng = np.random.default_rng(seed)
    bore = round(rng.uniform(68, 108), 2)
    flat = rng.random() < 0.3
    rows = {
        side: ValveRow(
            angle_deg=round(rng.uniform(0, 25), 1),
            relief=Relief.FLAT if flat else Relief.PARALLEL,
            diameter_mm=round(bore * rng.uniform(0.34, 0.46), 1),
        )
        for side in ("intake", "exhaust")
    }
    made = engine(bore_mm=bore, stroke_mm=round(bore * rng.uniform(0.8, 1.1), 2), rod_length_mm=bore * 2, **rows)
    clays = [clay(round(rng.uniform(40, 130), 1), cylinder, side) for cylinder in (1, 2) for side in Side] + [
        clay(round(rng.uniform(10, 60), 1), 1, side, gap=Gap.RADIAL) for side in Side
    ]
    thick = round(rng.uniform(0.7, 1.4), 2)
    return job(
        engine=made,
        limits=SHEET,
        clay=tuple(clays),
        deck=tuple(deck(cylinder, round(rng.uniform(-10, 25), 1)) for cylinder in (1, 2)),
        volumes=volumes(round(bore**2 / rng.uniform(110, 150), 1), round(rng.uniform(-8, 12), 1)),
        final_gasket=FinalGasket(compressed_mm=thick, bore_mm=bore + 1.5),
    ), rng


def wants(rng):
    return Wanted(
        quench_mm=round(rng.uniform(0.9, 1.4), 2),
        face_mm=round(rng.uniform(0, 0.4), 2),
        edge_mm=round(rng.uniform(0, 0.3), 2),
        ratio=round(rng.uniform(8.5, 12.5), 1),
        height_now_mm=round(rng.uniform(28, 48), 2),
        height_step_mm=float(rng.choice([0.01, 0.05, 0.1])),
        relief_step_mm=float(rng.choice([0.05, 0.1, 0.25])),
        volume_step_cc=float(rng.choice([0.1, 0.5])),
        tolerance_mm=float(rng.choice([0.01, 0.025, 0.05])),
    )


def worst_of(order, kind, side=None):
    checks = [c for c in order.after.of_kind(kind) if c.figure and c.limit.low is not None and side in (None, c.side)]
    return min((c.figure.value - c.figure.expanded - c.limit.low for c in checks), default=None)


def test_five_hundred_engines_meet_every_target_inside_step_and_tolerance():
    solved = 0
    for seed in range(ENGINES):
        made, rng = drawn(seed)
        wanted = wants(rng)
        order = pistons_to_order(made, wanted)
        assert order.unknown == ()
        # Quench of the middle deck: never less than wanted, and within one step of it.
        quench = np.mean([check.figure.value for check in order.after.of_kind(QUENCH_CHECK)])
        assert -1e-6 <= quench - wanted.quench_mm <= wanted.height_step_mm + 1e-6, seed
        assert order.height.value / wanted.height_step_mm == pytest.approx(
            round(order.height.value / wanted.height_step_mm), abs=1e-6
        )
        for kind in FACE_KINDS.values():
            assert worst_of(order, kind) >= wanted.face_mm - 1e-6, (seed, str(kind))
        for side in Side:
            left = worst_of(order, RADIAL_CHECK, side)
            assert left is None or left >= wanted.edge_mm - 1e-6, (seed, side)
        # The ratio is never exceeded, and the fullest cylinder comes within a step of it.
        ratios = [check.figure.value for check in order.after.of_kind(RATIO_CHECK)]
        swept = next(iter(order.after.volumes.values())).swept.value
        a_step = wanted.volume_step_cc * (wanted.ratio - 1) ** 2 / swept
        assert -1e-6 <= wanted.ratio - max(ratios) <= 1.05 * a_step + 1e-6, seed
        solved += 1
    assert solved == ENGINES


def test_by_hand_the_closed_forms():
    # Decks 4 and 5 thou down, gasket 36: 40.5 of quench now. For 50 the crown goes down 9.5, to whole thou 10.
    wanted = Wanted(quench_mm=thou(50), height_now_mm=40.0, height_step_mm=thou(1))
    order = pistons_to_order(job(), replace(wanted, height_now_mm=thou(1600)))
    assert order.height.value == pytest.approx(thou(1590))
    assert order.higher_mm == pytest.approx(-thou(10))
    # V = Vs / (CR - 1) less chamber, gasket and deck, by the fullest cylinder.
    swept = math.pi / 4 * 95.25**2 * 98.425 / 1000
    area, ring = math.pi / 4 * 95.25**2 / 1000, math.pi / 4 * 97.0**2 / 1000
    needs = swept / 8.5 - 70.0 - ring * thou(36) - area * thou(4)
    solved = pistons_to_order(job(), Wanted(ratio=9.5, volume_step_cc=0.1))
    assert solved.volume.value == pytest.approx(math.ceil(needs * 10) / 10)


def test_what_is_decided_and_not_done_is_counted():
    planned = job(changes=(cut(8, order=None),))
    bare, counted = (pistons_to_order(made, Wanted(quench_mm=thou(45))) for made in (job(), planned))
    assert [change.kind for change in counted.counted] == [DECK_CUT]
    assert counted.higher_mm == pytest.approx(bare.higher_mm - thou(8), abs=0.05 + 1e-9)


def test_what_cannot_be_solved_says_what_it_wants_and_the_rest_is_solved():
    order = pistons_to_order(job(deck=(), clay=()), Wanted(quench_mm=1.0, ratio=9.5))
    assert len(order.unknown) == 4
    assert order.height is None
    assert order.what_if.is_empty
    some = pistons_to_order(job(volumes=()), Wanted(quench_mm=1.2, ratio=9.5, face_mm=0.5))
    assert [words.split(":")[0] for words in some.unknown] == ["volume"]
    assert some.deeper_mm[Side.INTAKE] > 0


def test_depths_and_radii_are_told_where_they_are_known():
    limits = SHEET.edited({RADIAL_LIMIT: Edit(thou(50))})
    rows = {"intake": ValveRow(angle_deg=12.0, diameter_mm=45.0), "exhaust": ValveRow(angle_deg=12.0)}
    made = job(engine=engine(**rows), limits=limits, clay=(clay(60), clay(30, gap=Gap.RADIAL)))
    order = pistons_to_order(made, Wanted(intake_relief_mm=2.0))
    assert order.depths[Side.INTAKE].value == pytest.approx(2.0 + order.deeper_mm[Side.INTAKE])
    assert Side.EXHAUST not in order.depths
    assert order.radii[Side.INTAKE].value >= 22.5 + thou(50)
    assert Side.EXHAUST not in order.radii, "its diameter is not known"


def test_crown_and_ring_land_are_held_against_what_the_maker_allows():
    made = job(clay=(clay(30), clay(110, 1, Side.EXHAUST)))
    thin = Wanted(crown_mm=6.0, crown_least_mm=5.0, land_mm=6.0, land_least_mm=3.0)
    order = pistons_to_order(made, thin)
    assert len(order.faults) == 1
    assert "crown under the relief" in order.faults[0]
    assert not pistons_to_order(made, replace(thin, crown_least_mm=2.0)).faults


def test_a_heavier_piston_uses_more_of_the_quench_at_speed():
    running = Running(compression_height_mm=40.0, rpm=7000.0, reciprocating_g=800.0)
    light, heavy = (
        pistons_to_order(job(running=running), Wanted(quench_mm=1.1, moving_g=mass)).uses_mm for mass in (600.0, 1100.0)
    )
    assert heavy[1] < light[1] < 0
    assert heavy[0] == light[0]
    assert pistons_to_order(job(), Wanted(quench_mm=1.1)).uses_mm is None


@pytest.mark.parametrize(
    ("given", "path"),
    [
        ({"quench_mm": 0.0}, "quench_mm"),
        ({"face_mm": -1.0}, "face_mm"),
        ({"ratio": 2.0}, "ratio"),
        ({"crown_mm": 5.0}, "crown_least_mm"),
        ({"height_step_mm": 0.0}, "height_step_mm"),
        ({"moving_g": 1.0}, "moving_g"),
        ({"height_now_mm": float("nan")}, "height_now_mm"),
    ],
)
def test_nonsense_is_refused_at_its_field(given, path):
    with pytest.raises(FaultsError) as caught:
        Wanted(**given)
    assert path in {fault.path for fault in caught.value.faults}


def test_the_order_is_the_what_if_it_gives():
    made, rng = drawn(3)
    order = pistons_to_order(made, wants(rng))
    kinds = {change.kind for change in order.what_if.changes}
    assert kinds <= {PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED}
    assert all(isinstance(change, Change) for change in order.what_if.changes)
    again = pistons_to_order(made, wants(np.random.default_rng(9)))
    assert evaluate(made).checks == again.before.checks
