"""Small errors never stated: drift, a wobbling wheel, rounded angles, one side.

Each is as large as a careful builder allows: our own sizes, common practice, no source.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.readings.sweep import SweepReading
from virtual.engine import TrueEngine
from virtual.hand import VirtualBench, cam_card
from virtual.lobes import THOU
from virtual.trials import Outcome, about, of_first, on_the_bench, quench_of

DRIFT_THOU = 2.0
WOBBLE_DEG, RUNOUT_DEG = 0.25, 0.5
ROUNDED_DEG = 5.0
STEPS = (-10, -5, 0, 5, 10)


def drifting(rng: np.random.Generator, *, said: bool = True) -> Iterator[Outcome]:
    """The dial drifts by up to 2 thou over five readings; ``said``: checked and typed."""
    bench = on_the_bench(rng)
    for side in Side:
        middle, drift = about(bench, side), rng.uniform(-1, 1) * DRIFT_THOU * THOU
        for at, step in enumerate(STEPS):
            off = bench.hand.indicator_off_mm
            bench.hand.indicator_off_mm = off + drift * at / (len(STEPS) - 1)
            bench.sweep(1, side, middle + step)
            bench.hand.indicator_off_mm = off
        if said:
            kept = bench.kept["sweeps"]
            kept[:] = [_drifted(one, abs(drift)) if one.place.side is side else one for one in kept]
    yield from of_first(bench, evaluate(bench.job()))


def _drifted(one: SweepReading, by_mm: float) -> SweepReading:
    return replace(one, drift_mm=round(by_mm, 4))


def _swept_about(bench: VirtualBench, side: Side, off_deg: dict[int, float]) -> None:
    """Take five readings, each this far from the angle that is written down [deg]."""
    middle = about(bench, side)
    for step in STEPS:
        bench.sweep(1, side, middle + step + off_deg[step])
        kept = bench.kept["sweeps"]
        kept[-1] = replace(kept[-1], crank_deg=float(middle + step))


def wobbling(rng: np.random.Generator) -> Iterator[Outcome]:
    """A wheel that wobbles by a quarter of a degree and runs out by half a degree."""
    bench = on_the_bench(rng)
    for side in Side:
        phase = rng.uniform(0, 2 * np.pi)
        off = {
            step: rng.uniform(-1, 1) * WOBBLE_DEG + RUNOUT_DEG * float(np.sin(np.radians(step) + phase))
            for step in STEPS
        }
        _swept_about(bench, side, off)
    yield from of_first(bench, evaluate(bench.job()))


def rounded(rng: np.random.Generator) -> Iterator[Outcome]:
    """Angles read to the nearest five degrees of the wheel."""
    bench = on_the_bench(rng)
    for side in Side:
        _swept_about(bench, side, {step: rng.uniform(-0.5, 0.5) * ROUNDED_DEG for step in STEPS})
    yield from of_first(bench, evaluate(bench.job()))


def one_sided(rng: np.random.Generator) -> Iterator[Outcome]:
    """A card, and five readings all on one side of the closest point."""
    bench = on_the_bench(rng)
    bench.more["cam_card"] = cam_card(rng, bench.engine)
    for side in Side:
        middle, way = about(bench, side), int(rng.choice([-1, 1]))
        for step in (5, 8, 11, 14, 17):
            bench.sweep(1, side, middle + way * step)
    yield from of_first(bench, evaluate(bench.job()))


def lash_by_card(rng: np.random.Generator) -> Iterator[Outcome]:
    """Lash of 0 to 0.4 mm left in, the cam from its card, five readings."""
    bench = on_the_bench(rng)
    bench.more["cam_card"] = cam_card(rng, bench.engine)
    lash = round(rng.uniform(0, 0.4), 2)
    told = replace(bench.mock.told, lash_mm=lash)
    bench.mock = replace(bench.mock, told=told, true=replace(bench.mock.true, lash_mm=lash))
    for side in Side:
        middle = about(bench, side)
        for step in STEPS:
            bench.sweep(1, side, middle + step)
    yield from of_first(bench, evaluate(bench.job()))


def loose_gasket(rng: np.random.Generator) -> Iterator[Outcome]:
    """The final gasket is within 2 thou of the stated thickness, and that is stated."""
    bench = on_the_bench(rng)
    engine: TrueEngine = bench.engine
    bench.engine = replace(engine, gasket_mm=engine.gasket_stated_mm + rng.uniform(-2, 2) * THOU)
    bench.mock = replace(bench.mock, told=replace(bench.mock.told, gasket_known_to_mm=2 * THOU))
    yield from quench_of(bench)
