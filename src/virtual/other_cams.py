"""Cams never in the engine, predicted from a drop read with another cam or none."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.plans.which_cam import Candidate, which_cam
from virtual.engine import TrueEngine
from virtual.hand import VirtualBench, cam_card, measured_table
from virtual.lobes import THOU, true_lobe
from virtual.trials import Outcome, about, on_the_bench

CAMS = 3
"""How many other cams are tried in each engine."""


def other_cams(
    rng: np.random.Generator,
    *,
    third: bool = False,
    tdc: bool = False,
    table: bool = False,
    swept: bool = False,
    off_deg: float = 1.0,
    cams: int = CAMS,
) -> Iterator[Outcome]:
    """Yield closest points of other cams, by cards or tables, from a drop or a sweep.

    ``off_deg``: how far each is from its card, either way [deg].
    """
    bench = on_the_bench(rng)
    for side in Side:
        if swept:
            bench.more["cam_card"] = bench.more.get("cam_card") or cam_card(rng, bench.engine)
            middle = about(bench, side)
            for at in range(-2, 3):
                bench.sweep(1, side, middle + 5 * at)
        else:
            bench.drop(1, side)
    report = evaluate(bench.job())
    for _ in range(cams):
        other = with_another_cam(rng, bench)
        card = cam_card(rng, other, off_deg, third=third, tdc=tdc)
        tables = tuple(measured_table(rng, other.valves[1, side], 0.5 * THOU) for side in Side) if table else ()
        (found,) = which_cam(report, [Candidate(key="other", cam=Camshaft(card=card, tables=tables))])
        for one in found.predicted:
            assert one.check.side is not None
            true = other.valves[1, one.check.side].closest(bench.engine.crank)[0]
            low = one.check.limit.low
            yield Outcome(
                error=(one.figure.value - true) / THOU,
                expanded=one.figure.expanded / THOU,
                state=one.state,
                truth_short=low is not None and true < low + 1e-9,
            )


def with_another_cam(rng: np.random.Generator, bench: VirtualBench) -> TrueEngine:
    """Return the same engine with other lobes at other centrelines; its drops stay."""
    lobes = {side: true_lobe(rng) for side in Side}
    stands = {Side.INTAKE: rng.uniform(100, 114), Side.EXHAUST: -rng.uniform(104, 118)}
    valves = {
        (cylinder, side): replace(valve, lobe=lobes[side], centreline_deg=stands[side])
        for (cylinder, side), valve in bench.engine.valves.items()
    }
    return replace(bench.engine, valves=valves)
