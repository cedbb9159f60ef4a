"""How well a moved cam or other rockers are foretold where the lobe comes from a card: bare, and fitted to a sweep.

The same simulated engines as accuracy_closest.py: lobes that are not of the card's family. A card of lift and two
durations is made of each true lobe. Run it by itself: python benchmarks/accuracy_moves.py [engines].
"""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np
from scipy.optimize import brentq

from benchmarks.accuracy_closest import THOU, engine
from mockup.checks.approach import Approach, lift_shift
from mockup.engine.cam import Duration, LobeCard
from mockup.faults import FaultsError
from mockup.motion.lobes import card_lobe
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.value import Value
from mockup.readings.closest import as_sweep, closest_approach


def duration(lobe, at_mm: float) -> Duration:
    """The lobe's duration above a checking lift."""

    def above(x: float) -> float:
        return float(lobe.lift_mm(np.array(x))) - at_mm

    return Duration(brentq(above, 0, lobe.half * 1.2) - brentq(above, -lobe.half * 1.2, 0), at_mm)


def one(rng: np.random.Generator, advanced: float, more: float):
    """Errors of the bare and of the fitted card over their own u; None where the engine is no case."""
    crank, train, k = engine(rng)
    fine = np.linspace(-45, 45, 3601)
    truth = k * crank.travel_mm(fine) - train.lift_mm(fine)
    at = fine[int(np.argmin(truth))]
    if not 2 < abs(at) < 24:
        return None
    moved = k * crank.travel_mm(fine) - train.advanced(advanced).lift_mm(fine) * (train.ratio + more) / train.ratio
    true = moved.min() - truth.min()
    try:
        card = LobeCard(
            lift_mm=train.lobe.lift_max_mm, durations=(duration(train.lobe, 0.5), duration(train.lobe, 1.27))
        )
        lobe = card_lobe(card)
    except (FaultsError, ValueError):
        return None
    carded = ValveTrain(side=train.side, lobe=lobe, centreline_deg=train.centreline_deg, ratio=train.ratio)
    t = 5 * np.round(at / 5) + np.array([-10.0, -5.0, 0.0, 5.0, 10.0])
    read = k * crank.travel_mm(t) - train.lift_mm(t) + 2.0 + rng.normal(0, 0.5 * THOU, t.size)
    fit = closest_approach(as_sweep(t, read, 0.5 * THOU, k), crank, carded)
    bare = Approach(crank, k, carded, 0.0, Value(0.0, 0.5))
    fitted = Approach(crank, k, carded, fit.wheel_deg, fit.phase_deg, fitted=True)
    found = [lift_shift(of, (0.0, 0.0), (advanced, more)) for of in (bare, fitted)]
    return [(value.value - true, value.u) for value in found]


def main() -> None:
    """The whole table."""
    engines = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    print("| change | card | 95 % of errors under, thou | largest U, thou | U holds |")
    print("|---|---|---|---|---|")
    for words, advanced, more in (("4° advanced", 4.0, 0.0), ("4° retarded", -4.0, 0.0), ("ratio 0.1 more", 0.0, 0.1)):
        rng = np.random.default_rng(1)
        cases = np.array([case for case in (one(rng, advanced, more) for _ in range(engines)) if case])
        for at, card in enumerate(("bare", "fitted to 5 readings")):
            error, u = cases[:, at, 0], cases[:, at, 1]
            held = 100 * np.mean(np.abs(error) <= 2 * u)
            most = np.quantile(np.abs(error), 0.95) / THOU
            print(f"| {words} | {card} | {most:.2f} | {2 * u.max() / THOU:.2f} | {held:.1f} % |", flush=True)


if __name__ == "__main__":
    main()
