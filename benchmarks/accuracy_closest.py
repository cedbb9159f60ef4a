"""How well the closest approach is found: simulated engines whose lobes are not of the fit's own family.

Lobes are polynomials in the cam angle joined to a ramp, with a slower closing side; engines of random geometry.
Run it by itself: python benchmarks/accuracy_closest.py [engines]. Prints the table of docs/closest-approach.md.
"""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np

from mockup.engine.valves import Side
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.readings.closest import as_sweep, closest_approach

THOU = 0.0254


class Polynomial:
    """A lobe 1 + c2 x^2 + cp x^p + cq x^q + cr x^r, smooth to the third derivative at its ends, skewed."""

    measured = True

    def __init__(self, rng: np.random.Generator) -> None:
        self.lift_max_mm = rng.uniform(6.0, 10.5)
        self.half = rng.uniform(118.0, 150.0)
        self.skew = rng.uniform(0.96, 1.05)
        p, q, r = sorted(rng.choice(np.arange(4, 22, 2), 3, replace=False))
        powers = np.array([2.0, p, q, r])
        ends = np.array([np.ones(4), powers, powers * (powers - 1), powers * (powers - 1) * (powers - 2)])
        self.powers, self.c = powers, np.linalg.solve(ends, [-1.0, 0.0, 0.0, 0.0])

    def lift_mm(self, x):
        x = np.abs(np.where(x > 0, x / self.skew, x)) / self.half
        inside = x < 1
        lift = 1 + (self.c[:, None] * np.where(inside, x, 0.0).ravel()[None, :] ** self.powers[:, None]).sum(0)
        return self.lift_max_mm * np.where(inside, np.clip(lift.reshape(x.shape), 0.0, None), 0.0)


def engine(rng: np.random.Generator):
    """A crank, a valve train about overlap, and k."""
    crank = SliderCrank(rng.uniform(30, 55), rng.uniform(115, 190))
    side = Side.INTAKE if rng.random() < 0.5 else Side.EXHAUST
    centre = rng.uniform(100, 114) * (1 if side is Side.INTAKE else -1)
    train = ValveTrain(side=side, lobe=Polynomial(rng), centreline_deg=centre, ratio=rng.uniform(1.0, 1.7))
    return crank, train, float(np.cos(np.radians(rng.uniform(0, 25))))


def one(rng: np.random.Generator, readings: int, noise_thou: float, *, known: bool, wheel_deg: float):
    """Error of the fit and of the smallest reading, and whether U held; None where the engine is no case."""
    crank, train, k = engine(rng)
    fine = np.linspace(-45, 45, 3601)
    truth = k * crank.travel_mm(fine) - train.lift_mm(fine)
    at = fine[int(np.argmin(truth))]
    if not 2 < abs(at) < 24:
        return None
    shift = 2.0 - truth.min()
    step = 5.0 if readings <= 7 else 20.0 / (readings - 1) * 1.5
    first = 5 * np.round(at / 5) - step * (readings // 2)
    t = first + step * np.arange(readings)
    noise = rng.normal(0, noise_thou * THOU, readings)
    c = k * crank.travel_mm(t - wheel_deg) - train.lift_mm(t - wheel_deg) + shift + noise
    found = closest_approach(as_sweep(t, c, noise_thou * THOU, k), crank, train if known else None)
    if found is None:
        return None
    return found.minimum.value - 2.0, float(c.min()) - 2.0, abs(found.minimum.value - 2.0) <= found.minimum.expanded


def row(engines: int, readings: int, noise: float, *, known: bool, wheel: float, seed: int = 1) -> str:
    """One line of the table."""
    rng = np.random.default_rng(seed)
    cases = [one(rng, readings, noise, known=known, wheel_deg=wheel) for _ in range(engines)]
    errors, smallest, held = (np.array(part) for part in zip(*[case for case in cases if case], strict=True))
    error, most = np.mean(errors) / THOU, np.quantile(np.abs(errors), 0.95) / THOU
    return (
        f"| {readings} | {'known' if known else 'unknown'} | {noise:g} | {wheel:g} | {error:+.2f} | "
        f"{most:.2f} | {100 * held.mean():.1f} % | {np.mean(smallest) / THOU:+.2f} |"
    )


def main() -> None:
    """The whole table."""
    engines = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    print("| readings | lift | noise | wheel out, ° | mean error | 95 % of errors under | U holds | smallest reading |")
    print("|---|---|---|---|---|---|---|---|")
    for noise in (0.5, 1.0):
        for known in (False, True):
            for readings in (3, 4, 5, 7, 9, 21):
                print(row(engines, readings, noise, known=known, wheel=0.0), flush=True)
    for known in (False, True):
        print(row(engines, 5, 0.5, known=known, wheel=1.0), flush=True)


if __name__ == "__main__":
    main()
