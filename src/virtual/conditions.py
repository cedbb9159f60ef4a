"""Trials under stated conditions that make a reading less certain or too large.

Where they read large, the program gives a bound and not a figure: a bound is wrong only if the truth is beyond it.
"""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from mockup.checks.check import Check
from mockup.engine.mockup import Clay, Lifters, MockUp, Springs
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound
from mockup.readings.clay import ClayReading
from mockup.readings.instruments import CALIPER
from virtual.hand import VirtualBench
from virtual.lobes import THOU
from virtual.trials import Outcome, about, first_face, on_the_bench, outcome, read_to_enough


def _bounded(bench: VirtualBench) -> Iterator[Outcome]:
    """Yield both valves of the first cylinder; for a bound only what is beyond it is an error."""
    report = evaluate(bench.job())
    for side in Side:
        check = first_face(report, side)
        for found in outcome(check, bench.engine.valves[1, side].closest(bench.engine.crank)[0]):
            yield replace(found, error=_beyond(found.error, check))


def _beyond(error: float, check: Check) -> float:
    bound = check.governing.bound if check.governing else Bound.EXACT
    if bound is Bound.AT_MOST:
        return min(error, 0.0)
    return max(error, 0.0) if bound is Bound.AT_LEAST else error


def _mock_up(bench: VirtualBench, told: MockUp, **true: float) -> None:
    bench.mock = replace(bench.mock, told=told, true=replace(bench.mock.true, **true))


def tilted(rng: np.random.Generator) -> Iterator[Outcome]:
    """A dial out of line by up to 15 degrees, judged by eye; lobe by card, five readings."""
    bench = on_the_bench(rng)
    tilt = float(rng.uniform(0, 15))
    bench.hand.tilt_deg = tilt
    seen = float(np.clip(round(tilt + rng.normal(0, 3)), 0, 40))
    for side in Side:
        middle = about(bench, side)
        for at in (-10, -5, 0, 5, 10):
            bench.sweep(1, side, middle + at)
    bench.kept["sweeps"] = [replace(one, tilt_deg=seen) for one in bench.kept["sweeps"]]
    yield from _bounded(bench)


def slack(rng: np.random.Generator) -> Iterator[Outcome]:
    """A chain with 0.3 degrees of slack, taken up at one reading and not at the next."""
    bench = on_the_bench(rng)
    bench.hand.slack_deg = 0.3
    yield from read_to_enough(bench)


def doughy(rng: np.random.Generator) -> Iterator[Outcome]:
    """Soft dough: it springs back by a few thou, or is dented by the caliper."""
    bench = on_the_bench(rng)
    _mock_up(bench, replace(bench.mock.told, clay=Clay.DOUGH))
    for side in Side:
        bench.clay(1, side, 2, 3.0)
    bench.kept["clay"] = [
        replace(one, thickness_mm=max(one.thickness_mm + rng.normal(0, 0.08), 0.1)) for one in bench.kept["clay"]
    ]
    yield from _bounded(bench)


def too_thin(rng: np.random.Generator) -> Iterator[Outcome]:
    """Clay the valve did not reach."""
    bench = on_the_bench(rng)
    for side in Side:
        true = bench.square_to_crown(side)
        laid = max(true - abs(rng.normal(0, 20 * THOU)), 0.2)
        bench.kept["clay"].append(
            ClayReading(
                key=bench.key(),
                mockup="A",
                place=Place(1, side),
                thickness_mm=bench.hand.caliper(laid, 3 * THOU),
                instrument=CALIPER,
                touched=laid > true,
            )
        )
    yield from _bounded(bench)


def bent(rng: np.random.Generator) -> Iterator[Outcome]:
    """Running springs, under which the train loses two to six percent of its lift."""
    bench = on_the_bench(rng)
    yield from _clayed(bench, replace(bench.mock.told, springs=Springs.RUNNING), bent=rng.uniform(0.02, 0.06))


def bled(rng: np.random.Generator) -> Iterator[Outcome]:
    """Hydraulic lifters that were not blocked, and bled down by up to 0.8 mm."""
    bench = on_the_bench(rng)
    yield from _clayed(bench, replace(bench.mock.told, lifters=Lifters.UNBLOCKED), bled_mm=rng.uniform(0.1, 0.8))


def _clayed(bench: VirtualBench, told: MockUp, **true: float) -> Iterator[Outcome]:
    _mock_up(bench, told, **true)
    for side in Side:
        bench.clay(1, side, 2, 3.0)
    yield from _bounded(bench)
