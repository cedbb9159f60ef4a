"""Lobes of virtual engines, of other constructions than the core's table [mm, deg].

Arcs and tangents with flat and roller followers from their geometry, speeds as splines, accelerations in straight
pieces; each flank separately, with a ramp. Sources: three-arc cam with a flat follower and tangent cam with a
roller, any text on mechanisms (e.g. Shigley, Theory of Machines, cams); the others are our own.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

Curve = NDArray[np.float64]
Flank = Callable[[np.random.Generator], tuple[Curve, Curve]]
"""Distance from the nose, rising from 0 to 1, and the share of the lift there, falling from 1 to 0; each shape (n,)."""

POINTS = 600
THOU = 0.0254
STEP_DEG = 0.1


def arcs(rng: np.random.Generator) -> tuple[Curve, Curve]:
    """Base circle, flank arc and nose arc under a flat follower: lift by its geometry."""
    base, nose = 1.0, rng.uniform(0.15, 0.40)
    reach = rng.uniform(0.38, 0.62) + base - nose  # centre of the nose
    half = np.radians(rng.uniform(52.0, 72.0))
    # The flank touches base circle and nose: its radius follows from the triangle of the three centres.
    flank = (reach**2 + base**2 - nose**2 - 2 * reach * base * np.cos(half)) / (
        2 * (base - nose - reach * np.cos(half))
    )
    if flank < 1.5 * base:
        return arcs(rng)
    turn = np.arcsin(np.clip(reach * np.sin(half) / (flank - nose), -1, 1))
    angle = np.linspace(half, 0.0, POINTS)  # of the cam, from the nose; theta counts from where the flank begins
    theta = half - angle
    lift = np.where(theta < turn, (flank - base) * (1 - np.cos(theta)), reach * np.cos(angle) + nose - base)
    return _as_flank(angle, lift)


def tangent(rng: np.random.Generator) -> tuple[Curve, Curve]:
    """A straight flank between base circle and nose under a roller: lift by its geometry."""
    base, nose, roller = 1.0, rng.uniform(0.25, 0.55), rng.uniform(0.6, 1.6)
    reach = rng.uniform(0.45, 0.75) + base - nose
    half = np.arccos((base - nose) / reach)
    turn = np.arctan(reach * np.sin(half) / (base + roller))
    angle = np.linspace(half, 0.0, POINTS)
    theta = half - angle
    inside = np.sqrt(np.clip((roller + nose) ** 2 - (reach * np.sin(angle)) ** 2, 0.0, None))
    lift = np.where(
        theta < turn, (base + roller) * (1 / np.cos(theta) - 1), reach * np.cos(angle) + inside - base - roller
    )
    return _as_flank(angle, lift)


def speeds(rng: np.random.Generator) -> tuple[Curve, Curve]:
    """The valve's speed as a smooth hump over the flank, its lift the area under it."""
    peak = rng.uniform(0.55, 0.78)
    knots = np.array([0.0, peak * rng.uniform(0.45, 0.6), peak, 1 - (1 - peak) * rng.uniform(0.35, 0.55), 1.0])
    heights = np.array([0.0, rng.uniform(0.45, 0.75), 1.0, rng.uniform(0.35, 0.65), 0.0])
    u = np.linspace(0.0, 1.0, POINTS)
    speed = PchipInterpolator(knots, heights)(u)
    fallen = np.concatenate([[0.0], np.cumsum((speed[1:] + speed[:-1]) / 2)])
    return u, 1 - fallen / fallen[-1]


def pieces(rng: np.random.Generator) -> tuple[Curve, Curve]:
    """Acceleration in straight pieces: nose, a ramp up, an even push, a ramp down."""
    turn = rng.uniform(0.58, 0.80)
    push = 1 - turn
    knots = np.array(
        [0.0, turn * rng.uniform(0.5, 0.9), turn, turn + push * rng.uniform(0.15, 0.4), 1 - push * 0.2, 1.0]
    )
    nose = -rng.uniform(0.8, 1.2)
    heights = np.array([nose, nose * rng.uniform(0.6, 1.2), 0.0, 1.0, rng.uniform(0.6, 1.0), 0.0])
    u = np.linspace(0.0, 1.0, POINTS)
    bend = np.interp(u, knots, heights)
    down, up = np.where(bend < 0, bend, 0.0), np.where(bend > 0, bend, 0.0)
    bend = down / -down.sum() + up / up.sum()  # at rest at both ends
    speed = np.cumsum(bend)
    fallen = np.concatenate([[0.0], np.cumsum((speed[1:] + speed[:-1]) / 2)])
    return u, 1 - fallen / fallen[-1]


FLANKS: tuple[Flank, ...] = (arcs, tangent, speeds, pieces)


def _as_flank(angle: Curve, lift: Curve) -> tuple[Curve, Curve]:
    order = np.argsort(angle)
    return angle[order] / angle.max(), lift[order] / lift.max()


@dataclass(frozen=True, slots=True)
class TrueLobe:
    """The true lobe: rising angles from its middle at 0.050 in, and lifts."""

    x_deg: Curve
    lift_mm: Curve
    hydraulic: bool

    def at(self, x_deg: Curve) -> Curve:
        """Lift at the lobe [mm], any shape of angles [deg]."""
        return np.interp(x_deg, self.x_deg, self.lift_mm, left=0.0, right=0.0)

    def flanks(self, at_mm: float) -> tuple[float, float]:
        """Return where it opens and closes at a lift [deg]."""
        top = int(np.argmax(self.lift_mm))
        opens = np.interp(at_mm, self.lift_mm[: top + 1], self.x_deg[: top + 1])
        closes = np.interp(-at_mm, -self.lift_mm[top:], self.x_deg[top:])
        return float(opens), float(closes)


def true_lobe(rng: np.random.Generator) -> TrueLobe:
    """Return a lobe of a road, race or small engine, with hydraulic or solid ramps."""
    hydraulic = bool(rng.random() < 0.5)
    lift = rng.uniform(5.5, 11.0)
    duration = rng.uniform(195.0, 280.0)
    ramp = rng.uniform(0.04, 0.15) if hydraulic else rng.uniform(0.15, 0.40)
    make = FLANKS[rng.integers(len(FLANKS))]
    sides = []
    for slower in (1.0, rng.uniform(0.98, 1.08)):
        u, share = make(rng)
        out = np.linspace(0.0, 1.6, 800)
        main = lift * np.interp(out, u, share, right=0.0)
        tail = ramp * np.clip(1 - (out - 1) / rng.uniform(0.08, 0.25), 0.0, 1.0)
        # The ramp continues smoothly from the end of the flank.
        sides.append((out * slower, (main**3 + tail**3) ** (1 / 3)))
    top = min(side[1][0] for side in sides)
    x = np.concatenate([-sides[0][0][::-1], sides[1][0][1:]])
    y = np.concatenate([sides[0][1][::-1] * top / sides[0][1][0], (sides[1][1] * top / sides[1][1][0])[1:]])
    rough = TrueLobe(x, y, hydraulic)
    opens, closes = rough.flanks(50 * THOU)
    stretch = duration / (closes - opens)
    fine = np.arange(-260.0, 260.0 + STEP_DEG, STEP_DEG)
    middle = (opens + closes) / 2
    return TrueLobe(fine, np.interp(fine / stretch + middle, x, y, left=0.0, right=0.0), hydraulic)
