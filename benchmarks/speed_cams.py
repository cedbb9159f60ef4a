"""Speed before buying: 50 cams in 16 valves, room, a map of two levers, a what-if.

Each against what a good programmer would write for the same answer: NumPy over the crank, a plain loop over cams,
valves and settings. Both run in turns in one process; medians, with the spread of the ratio.
"""

import statistics
import sys
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.timing import finish, report
from mockup.changes.change import Change
from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.changes.stack import GASKET_CHANGED
from mockup.changes.train import CAM_MOVED
from mockup.engine.cam import CamCard, Duration, LobeCard
from mockup.engine.camshaft import Camshaft
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.fit.approach import NEAR_OVERLAP_DEG, Setting, approach_of
from mockup.fit.cam_report import cam_sides
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever
from mockup.plans.lobe_room import lobe_rooms
from mockup.plans.room import rooms
from mockup.plans.room_map import room_map
from mockup.plans.what_if import WhatIf, curve_changes, effects_of, supposed, train_of
from mockup.plans.which_cam import TRIED_DEG, Candidate, which_cam
from mockup.readings.sweep import SweepReading
from tests.making import CARD, engine, inclined, job, short_eight, thou, twelve


def in_turns(ours: Callable[[], object], theirs: Callable[[], object], rounds: int = 7) -> tuple[float, float, str]:
    """Median seconds of both, run in turns, and the plain way's multiple with its spread."""
    ours()
    theirs()
    times: list[tuple[float, float]] = []
    for _ in range(rounds):
        pair = []
        for work in (ours, theirs):
            began = time.perf_counter()
            work()
            pair.append(time.perf_counter() - began)
        times.append((pair[0], pair[1]))
    ratios = sorted(slow / fast for fast, slow in times)
    middle = statistics.median(ratios)
    return (
        statistics.median(fast for fast, _ in times),
        statistics.median(slow for _, slow in times),
        f"{middle:.1f} times as long ({ratios[0]:.1f} to {ratios[-1]:.1f})",
    )


def cam(lift: float, at_fifty: float) -> Camshaft:
    """A cam of so much lobe lift in thou, and so long at 0.050 in."""
    lobe = LobeCard(lift_mm=thou(lift), durations=(Duration(at_fifty + 38, thou(20)), Duration(at_fifty, thou(50))))
    return Camshaft(name=f"{lift:g}", card=CamCard(intake=lobe, exhaust=lobe, icl_deg=106.0, lsa_deg=110.0))


four = engine(cylinders=4, rocker_ratio=1.5, intake=inclined(12.0, count=2), exhaust=inclined(12.0, count=2))
drops = tuple(
    SweepReading(
        key=f"{cylinder}{side}{number}",
        mockup="A",
        place=Place(cylinder, side, number),
        clearance_mm=thou(215 + cylinder),
        drop=True,
    )
    for cylinder in four.cylinder_numbers
    for side in Side
    for number in (1, 2)
)
dropped = evaluate(job(engine=four, clay=(), deck=(), sweeps=drops, cam_card=CARD))
tried = [Candidate(key=str(at), cam=cam(280 + at, 210 + at / 2)) for at in range(50)]


def plainly() -> list[tuple[float, list[bool]]]:
    """Return each cam's tightest margin and its clear advances, one valve and advance at a time."""
    found = []
    places = [(side, thou(215 + c)) for c in four.cylinder_numbers for side in Side for _ in (1, 2)]
    needs = {Side.INTAKE: thou(80), Side.EXHAUST: thou(100)}
    for one in tried:
        sides = cam_sides(dropped.engine, one.cam)
        trains = {side: approach_of(four, dropped.crank, sides[side], (), 0) for side in Side}
        rooms_left, clear = [], np.ones(len(TRIED_DEG), dtype=bool)
        for side, drop in places:
            approach = trains[side]
            travel = approach.k * dropped.crank.travel_mm(NEAR_OVERLAP_DEG)
            rooms_left.append(drop + float((travel - approach.train.lift_mm(NEAR_OVERLAP_DEG)).min()) - needs[side])
            for at, advance in enumerate(TRIED_DEG):
                left = drop + float((travel - approach.train.lift_mm(NEAR_OVERLAP_DEG + advance)).min())
                clear[at] &= left >= needs[side] + 0.4
        found.append((min(rooms_left), clear.tolist()))
    return found


fast, slow, words = in_turns(lambda: which_cam(dropped, tried), plainly, rounds=3)
report("50 cams x 16 valves, with U, windows, reliefs, gasket", fast, 0.150)
print(f"{'  the same figures without U, in a loop over NumPy':<52} {slow * 1000:8.0f} ms   {words}")

big = evaluate(replace(twelve(), cam_card=CARD))
many = Batch(big)
pair = Lever(CAM_MOVED), Lever(GASKET_CHANGED)


def plain_map() -> int:
    """How many of 60 x 60 points are clear, by a plain loop over the faces."""
    faces = [check for check in big.checks if str(check.kind).endswith("face")]
    trains = {check.label: train_of(big, check) for check in faces}
    advances, thicker = np.linspace(-15, 15, 60), np.linspace(-0.9, 1.5, 60)
    gains: dict[int, list[float]] = {}
    for train in trains.values():
        if train and id(train[0]) not in gains:
            base = float(train[0].least(Setting())[0][0])
            gains[id(train[0])] = [float(train[0].least(Setting(float(one)))[0][0]) - base for one in advances]
    rows = [
        (c.figure.value - c.figure.expanded - c.limit.low, gains[id(trains[c.label][0])], trains[c.label][0].k)
        for c in faces
        if c.figure and c.limit.low is not None and trains[c.label]
    ]
    clear = 0
    for at in range(60):
        for thick in thicker:
            clear += all(left + gain[at] + k * thick >= 0 for left, gain, k in rows)
    return clear


fast, slow, words = in_turns(lambda: room_map(many, *pair), plain_map, rounds=5)
report("map of 60 x 60, 12 cylinders of 4 valves, all checks", fast, 0.150)
print(f"{'  faces alone, U not carried, in a plain loop':<52} {slow * 1000:8.0f} ms   {words}")

eight = Batch(evaluate(short_eight()))


def page() -> None:
    """What the room page computes."""
    rooms(eight)
    lobe_rooms(eight)


page()
began = time.perf_counter()
for _ in range(5):
    page()
report("room to move, 8 cylinders, every lever", (time.perf_counter() - began) / 5, 0.250)

typed = iter(range(1, 1000))


def live() -> None:
    """One change of the what-if while it is typed; the report before is kept."""
    changes = (
        Change(key="c", kind=CAM_MOVED, amount=next(typed) / 37),
        Change(key="r", kind=RELIEF_DEEPENED, side=Side.INTAKE, amount=0.2),
    )
    after = evaluate(supposed(eight.report.job, WhatIf(changes=changes)))
    effects_of(eight.report, after)
    curve_changes(eight.report, after)


live()
began = time.perf_counter()
for _ in range(15):
    live()
report("a what-if while it is typed, 8 cylinders", (time.perf_counter() - began) / 15, 0.060)
sys.exit(finish())
