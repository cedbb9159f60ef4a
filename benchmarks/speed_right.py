"""Speed of putting it right: the remedy search over a realistic space against a plain loop, a what-if, the stack.

12 gaskets x 9 cam steps x 30 relief depths x 5 ratios x 10 head cuts, every valve of 8 cylinders. The search solves
reliefs and head cuts for each of the others instead of trying them; the loop tries them one by one in plain Python.
"""

import random
import sys
import time
from dataclasses import replace
from itertools import product
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.timing import median_seconds, ratio, report
from mockup.changes.change import Change
from mockup.changes.kind import ChangeKind
from mockup.checks.check import Kind
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.plans.levers import ShopLimits
from mockup.plans.many import Many
from mockup.plans.remedies import remedies
from mockup.plans.sensitivity import Tolerances, tolerance_stack
from mockup.plans.what_if import WhatIf, curve_changes, effects_of, supposed, train_of
from mockup.readings.approach import Setting
from mockup.readings.shifts import shifts
from mockup.readings.sweep import SweepReading
from tests.making import CARD, engine, inclined, job, short_eight, thou, twelve

gaskets = tuple(FinalGasket(compressed_mm=thou(28 + 3 * at), bore_mm=97.0) for at in range(12))
cams = tuple(float(at) for at in (-8, -6, -4, -2, 2, 4, 6, 8))
ratios = (1.4, 1.45, 1.55, 1.6)
limits = ShopLimits(
    gaskets=gaskets,
    cam_deg=cams,
    ratios=ratios,
    cuts_mm={ChangeKind.RELIEF: thou(150), ChangeKind.HEAD_CUT: thou(50)},
    relief_step_mm=thou(5),
    cut_step_mm=thou(5),
)
plain = evaluate(short_eight())
searched = median_seconds(lambda: remedies(plain, limits), 5)
report("remedies, 12 gaskets x 9 cams x 30 reliefs x 5 ratios x 10 head cuts, 8 cylinders", searched, 1.0)


def loop(share: int) -> float:
    """Seconds a plain loop takes over the same space, from one combination in ``share``; faces and quench only."""
    faces = [c for c in plain.checks if c.kind in (Kind.FACE_INTAKE, Kind.FACE_EXHAUST)]
    trains = {check.label: train_of(plain, check) for check in faces}
    gains = {
        (label, cam, more): float(shifts(train[0], Setting(), Setting(cam, more)).gain_mm[0])
        for label, train in trains.items()
        if train
        for cam, more in product((0.0, *cams), (-0.1, -0.05, 0.0, 0.05, 0.1))
    }
    space = list(product(gaskets, (0.0, *cams), range(30), (-0.1, -0.05, 0.0, 0.05, 0.1), range(10)))
    tried = random.Random(1).sample(space, len(space) // share)  # noqa: S311, a sample and no secret
    began = time.perf_counter()
    found = 0
    for gasket, cam, depth, more, cut in tried:
        thicker = gasket.compressed_mm - plain.job.final_gasket.compressed_mm
        k = 0.978
        if all(
            c.figure.value + k * (thicker - cut * thou(5)) + depth * thou(5) + gains[c.label, cam, more]
            >= c.limit.low + c.figure.expanded
            for c in faces
        ):
            found += 1
    return (time.perf_counter() - began) * share


ratio("the same space in a plain loop", searched, loop(20))
big = evaluate(twelve())
carded = evaluate(replace(big.job, cam_card=CARD))
cam = WhatIf(
    changes=(Change(key="c", kind=ChangeKind.CAM, amount=3.0), Change(key="r", kind=ChangeKind.ROCKERS, amount=0.1))
)


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
many = Many(plain)
report("tolerance stack, 100,000 draws, 32 checks", median_seconds(lambda: tolerance_stack(many, Tolerances()), 5), 1.0)
