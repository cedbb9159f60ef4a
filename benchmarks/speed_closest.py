"""Speed of the closest approach: one fit, and a build of sixteen valves and 300 readings."""

import sys
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np

from benchmarks.timing import finish, median_seconds, report
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.fit import valve_model
from mockup.motion.lobes import CardLobe
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.readings.sweep import SweepReading
from tests.fitting import as_sweep, closest_approach
from tests.making import CARD, engine, inclined, job, with_readings
from tests.making_readings import degree, table

crank = SliderCrank(49.2, 172.7)
train = ValveTrain(side=Side.INTAKE, lobe=CardLobe(8.0, 130.0, 2.6, 3.2), centreline_deg=106.0, ratio=1.5)
angles = np.array([0.0, 5.0, 10.0, 15.0, 20.0])
read = 2.0 + crank.travel_mm(angles) - train.lift_mm(angles)
sweep = as_sweep(angles, read, 0.01, 1.0)


def fit_again(work):
    """The work with nothing fitted before it."""
    valve_model._kept.cache_clear()  # noqa: SLF001, a kept fit would make the second one free
    return work()


report("one sweep, lift known", median_seconds(lambda: fit_again(lambda: closest_approach(sweep, crank, train))), 0.005)
report("one sweep, lift unknown", median_seconds(lambda: closest_approach(sweep, crank, None)), 0.005)

four = engine(cylinders=4, intake=inclined(14.0, count=2), exhaust=inclined(15.0, count=2))
readings = tuple(
    SweepReading(
        key=f"{cylinder}{side}{number}-{at}",
        mockup="A",
        place=Place(cylinder, side, number),
        crank_deg=float(at if side is Side.INTAKE else at - 18),
        clearance_mm=float(np.interp(at, angles, read)),
    )
    for cylinder in four.cylinder_numbers
    for side in Side
    for number in (1, 2)
    for at in range(19)
)
unknown = job(engine=four, clay=(), sweeps=readings)
report(f"evaluate, 16 valves, {len(readings)} indicator readings", median_seconds(lambda: evaluate(unknown)), 0.050)
known = replace(
    with_readings(unknown, degrees=(degree(Side.INTAKE, 70.0, 146.0), degree(Side.EXHAUST, -146.0, -70.0))),
    lobe_tables=(table(), table(side=Side.EXHAUST)),
)
report("the same, lift known", median_seconds(lambda: fit_again(lambda: evaluate(known))), 0.100)
report("the same again, as a page after the first", median_seconds(lambda: evaluate(known)), 0.050)
carded = replace(unknown, cam_card=CARD)
report("the same, the lobe by its card", median_seconds(lambda: fit_again(lambda: evaluate(carded))), 0.150)
sys.exit(finish())
