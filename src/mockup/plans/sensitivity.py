"""One unit of each change on every check, and how likely checks hold with tolerances.

Effects are differences of computed figures. The tolerance stack is a Monte Carlo after JCGM 101:2008 (Supplement 1
to the GUM): each check's own measurement, normal with its u, plus how one assembled engine differs from the next,
each tolerance normal with half of it as standard deviation. Seeded, so that it repeats.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mockup.base.faults import out_of_range, refuse
from mockup.changes.cuts import DECK_CUT
from mockup.checks.check import Check
from mockup.checks.valves import FACE_KINDS
from mockup.engine.valves import Side
from mockup.job import Job
from mockup.limits.judge import SLACK
from mockup.plans.batch import Batch
from mockup.plans.levers import Lever, can_be_made, levers
from mockup.plans.search import CAM, GASKET, ROCKERS

Curve = NDArray[np.float64]
Drawn = NDArray[np.float32]

DRAWS = 100_000
SEED = 1914
DECK = Lever(DECK_CUT)
CAM_GRID = 49
"""Points between which the effect of a moved cam is interpolated: within a hundredth of a thou of the curve."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Nudge:
    """One possible change, its amount in its own unit, and its name."""

    lever: Lever
    words: str
    amount: float


def nudges(length_mm: float, job: Job) -> tuple[Nudge, ...]:
    """Return the changes examined: a degree of cam, a tenth of a ratio, a length of others."""
    told = sorted(
        (lever for lever in levers() if lever.remedy.gain and can_be_made(lever.kind, job)),
        key=lambda lever: lever.kind.order,
    )
    return (
        Nudge(lever=CAM, words="cam advanced", amount=1.0),
        Nudge(lever=CAM, words="cam retarded", amount=-1.0),
        Nudge(lever=ROCKERS, words="rocker ratio", amount=0.1),
        *(Nudge(lever=lever, words=lever.named(lever.remedy.gain), amount=length_mm) for lever in told),
    )


@dataclass(frozen=True, slots=True)
class Gain:
    """The effect of one step on every judged check, in order [mm or 1]; None where not known."""

    step: Nudge
    gains: tuple[float | None, ...]


def gains(many: Batch, asked: tuple[Nudge, ...]) -> tuple[Gain, ...]:
    """Return the effect of each step on every check."""
    amounts: dict[Lever, Curve] = {}
    for at, step in enumerate(asked, start=1):
        amounts.setdefault(step.lever, np.zeros(len(asked) + 1))[at] = step.amount
    value = many.figures(amounts).value
    gained = value[1:] - value[0]
    return tuple(
        Gain(step, tuple(None if np.isnan(one) else float(one) for one in row))
        for step, row in zip(asked, gained, strict=True)
    )


TOLERANCE_RANGES = {
    "gasket_mm": (0.0, 0.5),
    "cam_deg": (0.0, 6.0),
    "ratio": (0.0, 0.2),
    "relief_mm": (0.0, 1.0),
    "deck_mm": (0.0, 0.5),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Tolerances:
    """How far an engine may be from what was measured, nineteen times in twenty.

    ``gasket_mm``: between gaskets; ``relief_mm``: between valves, in relief, seat and tip; ``deck_mm``: one crown's
    height [mm]; ``cam_deg``: key, chain and wheel [deg]; ``ratio``: of a rocker [1]. Defaults: common practice, no
    source. Raises FaultsError.
    """

    gasket_mm: float = 0.025
    cam_deg: float = 1.0
    ratio: float = 0.01
    relief_mm: float = 0.05
    deck_mm: float = 0.0

    def __post_init__(self) -> None:
        refuse(out_of_range(self, TOLERANCE_RANGES))


@dataclass(frozen=True, slots=True)
class Likely:
    """One check, and the share of engines that would meet its limit [1], 0 to 1."""

    check: Check
    holds: float


@dataclass(frozen=True, slots=True)
class ToleranceStack:
    """Every judged check, and the share of engines that meet all of them [1]."""

    each: tuple[Likely, ...]
    all_hold: float
    draws: int


def tolerance_stack(many: Batch, tolerances: Tolerances, draws: int = DRAWS, seed: int = SEED) -> ToleranceStack:
    """Return how likely each check is to hold.

    ``draws`` 1000 to 1,000,000; the same seed gives the same shares.

    Gasket, cam and rockers are common to all valves of an engine, relief and crown are individual; two cams err
    independently.
    """
    rng = np.random.default_rng(seed)
    now = many.figures({})
    value, u = now.value[0], now.u[0]
    gasket, ratio, cam = (
        rng.standard_normal(draws, dtype=np.float32) * np.float32(one / 2)
        for one in (tolerances.gasket_mm, tolerances.ratio, tolerances.cam_deg)
    )
    slopes = {lever: _slopes(many, lever) for lever in (GASKET, ROCKERS, DECK)}
    cams = dict.fromkeys(Side, cam)
    card = many.report.job.cam_card
    if card and card.two_cams:
        cams[Side.EXHAUST] = rng.standard_normal(draws, dtype=np.float32) * np.float32(tolerances.cam_deg / 2)
    moved = _Moved(many, cams, tolerances.cam_deg)
    all_hold = np.ones(draws, dtype=bool)
    each = []
    for at, check in enumerate(many.checks):
        own = [u[at], abs(slopes[DECK][at]) * tolerances.deck_mm / 2]
        own.append(tolerances.relief_mm / 2 if _is_face(check) else 0.0)
        drawn = rng.standard_normal(draws, dtype=np.float32) * np.float32(np.hypot.reduce(own))
        drawn += np.float32(slopes[GASKET][at]) * gasket
        if slopes[ROCKERS][at]:
            drawn += np.float32(slopes[ROCKERS][at]) * ratio
        drawn += moved.gain(at)
        holds = _inside(check, value[at], drawn)
        all_hold &= holds
        each.append(Likely(check, float(holds.mean())))
    return ToleranceStack(tuple(each), float(all_hold.mean()), draws)


def _inside(check: Check, value: float, off: Drawn) -> NDArray[np.bool_]:
    """Return whether a figure with these errors is inside its limits, shape (n,)."""
    low, high = check.limit.low, check.limit.high
    holds = np.ones(off.size, dtype=bool)
    if low is not None:
        holds &= off >= np.float32(low - SLACK - value)
    if high is not None:
        holds &= off <= np.float32(high + SLACK - value)
    return holds


class _Moved:
    """The effect of a moved cam on checks, drawn once for valves that approach alike."""

    def __init__(self, many: Batch, cams_deg: Mapping[Side, Drawn], tolerance_deg: float) -> None:
        self.cams = cams_deg
        self.sides = [check.side for check in many.checks]
        # More than five standard deviations either way; a draw beyond stays at the end.
        self.grid = np.linspace(-2.5 * tolerance_deg, 2.5 * tolerance_deg, CAM_GRID)
        value = many.figures({CAM: np.append(self.grid, 0.0)}).value
        self.gains = np.nan_to_num(value[:-1] - value[-1])
        self.drawn: dict[tuple[Side, bytes], Drawn] = {}

    def gain(self, at: int) -> Drawn:
        """Return the gain of one check in every engine drawn [mm or 1]; 0 if not affected."""
        row, side = self.gains[:, at], self.sides[at]
        if side is None or not row.any():
            return np.zeros(1, dtype=np.float32)
        key = (side, row.tobytes())
        if key not in self.drawn:
            self.drawn[key] = np.interp(self.cams[side], self.grid, row).astype(np.float32)
        return self.drawn[key]


def _is_face(check: Check) -> bool:
    return check.kind in FACE_KINDS.values()


def _slopes(many: Batch, lever: Lever) -> Curve:
    """Return the effect of one unit of a lever on every check, near its present value."""
    value = many.figures({lever: np.array([0.0, 0.01])}).value
    return np.asarray(np.nan_to_num((value[1] - value[0]) / 0.01))
