"""Speed of lobes: fitting a card, and 720 points of lift for every valve of 12 cylinders."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np

from benchmarks.timing import finish, median_seconds, report
from mockup.engine.cam import Duration, LobeCard
from mockup.engine.valves import Side
from mockup.motion.lobes import card_lobe
from mockup.motion.valve_lift import ValveTrain

card = LobeCard(lift_mm=8.2, durations=(Duration(284.0, 0.3), Duration(242.0, 0.9), Duration(180.0, 3.0)))


def fit() -> None:
    card_lobe.cache_clear()
    card_lobe(card)


def curves() -> None:
    t = np.arange(720.0) - 360.0
    for cylinder in range(12):
        for side, centre in ((Side.INTAKE, 108.0), (Side.EXHAUST, -112.0)):
            for _ in range(2):
                ValveTrain(side=side, lobe=card_lobe(card), centreline_deg=centre, ratio=1.5).lift_mm(
                    t + 60.0 * cylinder
                )


report("a lobe fitted to a card of three durations", median_seconds(fit), 0.020)
report("720 points of lift, 48 valves", median_seconds(curves), 0.010)
sys.exit(finish())
