"""Speed of putting it right: the remedy search against a plain loop, a what-if, the stack.

12 gaskets x 9 cam steps x 30 relief depths x 5 ratios x 10 head cuts, every valve of 8 cylinders. The loop judges
faces, quench and ratio with the U they have now and keeps the one best; the search carries U through every change, and
holds each of the plans it shows against a whole evaluation. They run in turn, in the same process.
"""

import math
import statistics
import sys
import time
from dataclasses import replace
from itertools import product
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np

from benchmarks.timing import finish, median_seconds, ratio, report
from mockup.changes.change import Change
from mockup.changes.cuts import HEAD_CUT
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.train import CAM_MOVED, ROCKERS_CHANGED
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.fit.approach import Setting
from mockup.fit.shifts import shifts
from mockup.plans.batch import Batch
from mockup.plans.levers import ShopLimits
from mockup.plans.remedies import remedies
from mockup.plans.sensitivity import Tolerances, tolerance_stack
from mockup.plans.what_if import WhatIf, curve_changes, effects_of, supposed, train_of
from mockup.readings.sweep import SweepReading
from tests.making import CARD, engine, inclined, job, short_eight, thou, twelve

gaskets = tuple(FinalGasket(compressed_mm=thou(28 + 3 * at), bore_mm=97.0) for at in range(12))
cams = tuple(float(at) for at in (-8, -6, -4, -2, 2, 4, 6, 8))
ratios = (1.4, 1.45, 1.55, 1.6)
limits = ShopLimits(
    gaskets=gaskets,
    cam_deg=cams,
    ratios=ratios,
    cuts_mm={RELIEF_DEEPENED: thou(150), HEAD_CUT: thou(50)},
    relief_step_mm=thou(5),
    cut_step_mm=thou(5),
)
plain = evaluate(short_eight())
FIGURES = (FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK, QUENCH_CHECK, RATIO_CHECK)
K = 0.978
"""How much of a move along the bore a face of this engine's valves sees [1]."""


def gains_of_trains() -> dict[tuple[str, float, float], float]:
    """What each cam and rocker ratio gains each valve [mm], for both sides of the comparison."""
    trains = {check.label: train_of(plain, check) for check in plain.checks if check.kind in FIGURES[:2]}
    steps = list(product((0.0, *cams), MORE))
    moved = Setting(np.array([cam for cam, _ in steps]), np.array([more for _, more in steps]))
    return {
        (label, *step): float(gain)
        for label, train in trains.items()
        if train
        for step, gain in zip(steps, shifts(train[0], Setting(), moved).gain_mm, strict=True)
    }


MORE = (-0.1, -0.05, 0.0, 0.05, 0.1)


def loop() -> tuple[int, float] | None:
    """The same space as a good programmer would walk it: nothing constant inside the loop.

    Faces, quench and ratio are judged, with the U they have now; the best is the one of fewest parts and least cut.
    """
    gains = gains_of_trains()
    now = plain.job.final_gasket.compressed_mm
    faces = [c for c in plain.checks if c.kind in FIGURES[:2] and c.figure]
    quench = [c for c in plain.checks if c.kind is QUENCH_CHECK and c.figure]
    ratio_checks = [c for c in plain.checks if c.kind is RATIO_CHECK and c.figure]
    area = math.pi / 4 * plain.job.engine.sizes.bore_mm**2 / 1000
    swept = area * plain.job.engine.sizes.stroke_mm
    clears = [(swept / (c.figure.value - 1), c.limit, c.figure.expanded) for c in ratio_checks]
    best = None
    for gasket in (None, *gaskets):
        thicker = gasket.compressed_mm - now if gasket else 0.0
        if any(
            c.figure.value + thicker - c.figure.expanded < (c.limit.low or -9.0)
            or c.figure.value + thicker + c.figure.expanded > (c.limit.high or 99.0)
            for c in quench
        ):
            continue
        for cam, more in product((0.0, *cams), MORE):
            least = {
                side: min(
                    c.figure.value + K * thicker + gains[c.label, cam, more] - c.limit.low - c.figure.expanded
                    for c in faces
                    if c.side is side
                )
                for side in Side
            }
            for cut in range(10):
                above = cut * thou(5)
                if any(
                    not (limit.low or 0.0) <= 1 + swept / (clear + area * (thicker - above)) - u
                    or 1 + swept / (clear + area * (thicker - above)) + u > (limit.high or 99.0)
                    for clear, limit, u in clears
                ):
                    continue
                depths = [max(0, math.ceil((K * above - least[side]) / thou(5) - 1e-9)) for side in Side]
                if max(depths) >= 30:
                    continue
                parts = (gasket is not None) + (cam != 0) + (more != 0) + (cut > 0) + sum(depth > 0 for depth in depths)
                rank = (parts, cut + sum(depths) + abs(cam))
                if parts <= 3 and (best is None or rank < best):
                    best = rank
    return best


def tried() -> int:
    """The same space with every pair of relief depths: how many combinations clear the faces."""
    gains, now = gains_of_trains(), plain.job.final_gasket.compressed_mm
    faces = [c for c in plain.checks if c.kind in FIGURES[:2] and c.figure]
    base = {c.label: c.figure.value - c.limit.low - c.figure.expanded for c in faces}
    labels = {side: [c.label for c in faces if c.side is side] for side in Side}
    found = 0
    for gasket, cam, more in product(gaskets, (0.0, *cams), MORE):
        thicker = K * (gasket.compressed_mm - now)
        intake, exhaust = (
            min(base[label] + gains[label, cam, more] for label in labels[side]) + thicker for side in Side
        )
        for cut in range(10):
            above = K * cut * thou(5)
            for deep in range(30):
                if intake - above + deep * thou(5) < 0:
                    continue
                for deeper in range(30):
                    if exhaust - above + deeper * thou(5) >= 0:
                        found += 1
    return found


assert loop() is not None
assert tried() > 0
assert remedies(plain, limits).plans
searches, loops, tries = [], [], []
for _ in range(7):
    for times, work in ((searches, lambda: remedies(plain, limits)), (loops, loop), (tries, tried)):
        began = time.process_time()
        work()
        times.append(time.process_time() - began)
searched = statistics.median(searches)
report("remedies, 12 gaskets x 9 cams x 30 reliefs x 5 ratios x 10 head cuts, 8 cylinders", searched, 1.0)
ratio("a plain loop, constants outside, solved for reliefs", searched, statistics.median(loops))
ratio("a plain loop, constants outside, every pair of depths", searched, statistics.median(tries))
big = evaluate(twelve())
carded = evaluate(replace(big.job, cam_card=CARD))
cam = WhatIf(changes=(Change(key="c", kind=CAM_MOVED, amount=3.0), Change(key="r", kind=ROCKERS_CHANGED, amount=0.1)))


def swept_sixteen():
    """A four of sixteen valves, each swept a degree at a time, its cam by its card."""
    four = engine(cylinders=4, intake=inclined(14.0, count=2), exhaust=inclined(15.0, count=2))
    places = [Place(cylinder, side, number) for cylinder in four.cylinder_numbers for side in Side for number in (1, 2)]
    readings = tuple(
        SweepReading(
            key=f"{place}{at}",
            mockup="A",
            place=place,
            crank_deg=float(at if place.side is Side.INTAKE else at - 18),
            clearance_mm=2.0 + 0.012 * (at - 9) ** 2,
        )
        for place in places
        for at in range(19)
    )
    return job(engine=four, clay=(), sweeps=readings, deck=(), cam_card=CARD)


def what_if() -> None:
    after = evaluate(supposed(carded.job, cam))
    effects_of(carded, after)
    curve_changes(carded, after)


report("a what-if of cam and rockers, 12 cylinders x 4 valves, 396 readings", median_seconds(what_if), 0.060)
swept = evaluate(swept_sixteen())


def what_if_swept() -> None:
    after = evaluate(supposed(swept.job, cam))
    effects_of(swept, after)
    curve_changes(swept, after)


report("the same, 16 valves swept, 304 indicator readings, a card's cam", median_seconds(what_if_swept), 0.060)
many = Batch(plain)
report("tolerance stack, 100,000 draws, 32 checks", median_seconds(lambda: tolerance_stack(many, Tolerances()), 5), 1.0)
sys.exit(finish())
