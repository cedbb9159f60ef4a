"""Lobes to learn from, constructed in several ways from the acceleration up.

Lifts [mm] over crank degrees.

Each flank is made separately, so no lobe is symmetric: a nose where the lift decelerates, a flank where it accelerates,
a ramp of nearly constant speed down to nothing. The lobes of the virtual engines (``virtual``) have other
constructions. Source: the constructions are our own, after any text on cam design (e.g. Norton, Cam Design and
Manufacturing Handbook, polynomial and modified functions).
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Curve = NDArray[np.float64]

POINTS = 400
CHECKED_MM = 1.27
"""0.050 in, where durations are compared."""


@dataclass(frozen=True, slots=True)
class Lobe:
    """One lobe: angles [crank deg] from the middle at 0.050 in and lifts [mm], each shape (n,)."""

    x_deg: Curve
    lift_mm: Curve
    hydraulic: bool = True

    def at(self, x_deg: Curve) -> Curve:
        """Lift [mm] at angles [deg], any shape."""
        return np.interp(x_deg, self.x_deg, self.lift_mm, left=0.0, right=0.0)

    def flanks(self, at_mm: float) -> tuple[float, float]:
        """Return where it opens and closes at a lift [deg]."""
        top = int(np.argmax(self.lift_mm))
        opens = np.interp(at_mm, self.lift_mm[: top + 1], self.x_deg[: top + 1])
        closes = np.interp(-at_mm, -self.lift_mm[top:], self.x_deg[top:])
        return float(opens), float(closes)


@dataclass(frozen=True, slots=True)
class Sizes:
    """The wanted lobe: lift [mm], duration at 0.050 in [deg], ramp height [mm] and length [1]."""

    lift_mm: float
    duration_deg: float
    ramp_mm: float
    ramp_share: float
    hydraulic: bool


Flank = Callable[[np.random.Generator, float, float], tuple[Curve, Curve]]
"""Distances from the nose [1], 0 to 1 and over the ramp, and lifts there [1], for a ramp's height and length [1]."""


def accelerated(rng: np.random.Generator, ramp: float, share: float) -> tuple[Curve, Curve]:
    """Return a flank of random acceleration: a decelerating nose, one smooth push, the ramp."""
    turn = rng.uniform(0.52, 0.82)
    u = np.linspace(0.0, 1.0, POINTS)
    nose, push = u[u <= turn] / turn, (u[u > turn] - turn) / (1 - turn)
    droop, wave = rng.uniform(-0.5, 0.6), rng.uniform(-0.25, 0.25)
    down = np.clip(1 + droop * (nose**2 - 0.5) + wave * np.cos(2 * np.pi * nose), 0.05, None)
    down *= np.clip((1 - nose) / rng.uniform(0.05, 0.25), 0.0, 1.0)
    lean = rng.uniform(0.6, 1.8)
    up = np.sin(np.pi * push**lean) ** rng.uniform(0.6, 1.4)
    one, two = np.zeros(POINTS), np.zeros(POINTS)
    one[u <= turn], two[u > turn] = down, up
    speed = ramp / share  # lift lost per unit of distance on the ramp
    step = u[1]
    gone = [np.cumsum(part) * step for part in (one, two)]
    fallen = [np.cumsum(part) * step for part in gone]
    # Speed at the ramp's edge: -one + two = -speed; lift there: 1 - fallen one + fallen two = ramp.
    ends = np.array([[gone[0][-1], -gone[1][-1]], [fallen[0][-1], -fallen[1][-1]]])
    amounts = np.linalg.solve(ends, [speed, 1 - ramp])
    lift = 1 - amounts[0] * fallen[0] + amounts[1] * fallen[1]
    return _with_ramp(u, lift, ramp, share, rng.uniform(1.0, 2.0))


def polynomial(rng: np.random.Generator, ramp: float, share: float) -> tuple[Curve, Curve]:
    """Return a flank of powers of the distance from the nose, smoothly joined to its ramp."""
    u = np.linspace(0.0, 1.0, POINTS)
    powers = np.array([2.0, *np.sort(rng.choice(np.arange(4, 20, 2), 3, replace=False))])
    ends = np.array([np.ones(4), powers, powers * (powers - 1), powers * (powers - 1) * (powers - 2)])
    found = np.linalg.solve(ends, [ramp - 1, -ramp / share, 0.0, 0.0])
    lift = 1 + (found[:, None] * u[None, :] ** powers[:, None]).sum(axis=0)
    return _with_ramp(u, lift, ramp, share, 1.0)


def harmonic(rng: np.random.Generator, ramp: float, share: float) -> tuple[Curve, Curve]:
    """Return a flank of cosines: a mean rise with a few harmonics, its end bent into the ramp."""
    u = np.linspace(0.0, 1.0, POINTS)
    a, b = rng.uniform(-0.10, 0.04), rng.uniform(-0.02, 0.02)
    rise = 0.5 * (1 + np.cos(np.pi * u)) + a * (1 - np.cos(2 * np.pi * u)) / 2 + b * (1 - np.cos(3 * np.pi * u)) * u
    lift = ramp + (1 - ramp) * np.clip(rise - rise[-1], 0.0, None) / (rise[0] - rise[-1])
    lift -= ramp * 0.5 * np.clip((u - 0.8) / 0.2, 0.0, 1.0) ** 2 * 0.2
    return _with_ramp(u, lift, float(lift[-1]), share, 1.0)


def _with_ramp(u: Curve, lift: Curve, ramp: float, share: float, power: float) -> tuple[Curve, Curve]:
    out = np.linspace(0.0, 1.0, 60)[1:]
    return np.append(u, 1 + share * out), np.append(lift, ramp * (1 - out) ** power)


FLANKS: tuple[Flank, ...] = (accelerated, accelerated, polynomial, harmonic)
"""The constructions; the first is used twice as often."""


def sizes(rng: np.random.Generator) -> Sizes:
    """Return sizes typical of cams of road, race and small engines, hydraulic or solid."""
    hydraulic = rng.random() < 0.5
    lift = float(np.exp(rng.uniform(np.log(4.5), np.log(11.5))))
    duration = rng.uniform(190, 290)
    ramp = rng.uniform(0.03, 0.16) if hydraulic else rng.uniform(0.15, 0.45)
    return Sizes(lift, duration, ramp, rng.uniform(0.06, 0.16) if hydraulic else rng.uniform(0.10, 0.30), hydraulic)


def lobe(rng: np.random.Generator) -> Lobe | None:
    """Return one random lobe; None where no valve could follow it."""
    want = sizes(rng)
    make = FLANKS[rng.integers(len(FLANKS))]
    sides = []
    for slower in (1.0, rng.uniform(0.97, 1.08)):
        u, lift = make(rng, want.ramp_mm / want.lift_mm, want.ramp_share * rng.uniform(0.8, 1.25))
        if np.any(np.diff(lift) > 1e-4) or lift.max() > 1.001:
            return None
        sides.append((u * slower, np.clip(lift, 0.0, None)))
    x = np.concatenate([-sides[0][0][::-1], sides[1][0][1:]])
    lift = want.lift_mm * np.concatenate([sides[0][1][::-1], sides[1][1][1:]])
    rough = Lobe(x, lift)
    opens, closes = rough.flanks(CHECKED_MM)
    stretch = want.duration_deg / (closes - opens)
    return Lobe((x - (opens + closes) / 2) * stretch, lift, want.hydraulic)
