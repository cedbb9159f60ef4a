"""Mistakes people make at the bench, tried on virtual engines: noticed or not.

A scene is an engine with four cylinders read honestly by one person; a blunder spoils what was written down. The intake
of cylinder 1 has 20 thou less than its limit asks, so calling it clear is false. The sizes of blunders are common
practice, no source.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from mockup.checks.check import Check
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.job import Job
from mockup.limits.judge import Bound, State
from mockup.readings.sweep import SweepReading
from mockup.report import Report
from virtual.engine import TrueEngine, true_engine
from virtual.hand import (
    Hand,
    Mocked,
    VirtualBench,
    a_hand,
    cam_card,
    measured_table,
    on_the_final_gasket,
    replace_lift,
)
from virtual.lobes import THOU

CYLINDERS = 4
SHORT_BY_THOU = 20.0
MATTERS_MM = 5 * THOU
"""Within this of a limit builders measure again another way, so a smaller error decides nothing: no source."""
COUNTS = (1, 2, 3, 5)
"""How many readings, or slices, a valve gets."""
USUAL_DEG = {1: (10.0,), 2: (8.0, 12.0), 3: (5.0, 10.0, 15.0), 5: (0.0, 5.0, 10.0, 15.0, 20.0)}


@dataclass
class Scene:
    """One engine, one person, one mock-up; ``count`` readings of every intake.

    ``lobe``: "", "card" or "table".
    """

    rng: np.random.Generator
    count: int
    lobe: str = ""
    clay: bool = False
    told: dict[str, Any] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.engine: TrueEngine = true_engine(self.rng, CYLINDERS)
        self.hand: Hand = a_hand(self.rng)
        self.mock: Mocked = on_the_final_gasket(self.engine)
        self.mock = replace(self.mock, told=replace(self.mock.told, **self.told))
        self.true_mm = self.engine.valves[1, Side.INTAKE].closest(self.engine.crank)[0]
        self.lobes: dict[str, Any] = {}
        if self.lobe:
            self.lobes["cam_card"] = cam_card(self.rng, self.engine)
        if self.lobe == "table":
            self.lobes["lobe_tables"] = (measured_table(self.rng, self.engine.valves[1, Side.INTAKE], 0.01),)

    def bench(self, engine: TrueEngine | None = None, mock: Mocked | None = None) -> VirtualBench:
        """Return a hand that has read everything but the valves."""
        bench = VirtualBench(engine or self.engine, self.hand, mock or self.mock)
        # Makers ask at least as much of the exhaust.
        for name in (FACE_INTAKE_LIMIT, FACE_EXHAUST_LIMIT):
            bench.limits[name] = self.true_mm + SHORT_BY_THOU * THOU
        bench.more |= self.lobes
        bench.find_tdc()
        for cylinder in self.engine.designed.cylinder_numbers:
            bench.deck(cylinder)
            bench.volumes(cylinder)
        return bench

    def swept(self, engine: TrueEngine | None = None, mock: Mocked | None = None) -> VirtualBench:
        """Return a hand that has read every intake ``count`` times by indicator, or cut its clay."""
        bench = self.bench(engine, mock)
        for cylinder in self.engine.designed.cylinder_numbers:
            self.read(bench, cylinder)
        return bench

    def read(self, bench: VirtualBench, cylinder: int) -> None:
        """Read one intake in the way of this scene."""
        if self.clay:
            bench.clay(cylinder, Side.INTAKE, self.count, 3.0)
            return
        for at in USUAL_DEG[self.count]:
            bench.sweep(cylinder, Side.INTAKE, at)

    @cached_property
    def shut(self) -> TrueEngine:
        """Return the same engine with its valves shut, as at firing TDC."""
        return replace(self.engine, valves={at: replace_lift(valve) for at, valve in self.engine.valves.items()})

    @cached_property
    def honest(self) -> Job:
        """Return the job without a blunder."""
        return self.swept().job()

    def but(self, change: Callable[[SweepReading], SweepReading]) -> Job:
        """Return the job with its indicator readings changed one by one."""
        kept = self.honest.readings
        return replace(
            self.honest, readings=tuple(change(one) if isinstance(one, SweepReading) else one for one in kept)
        )

    def under(self, **told: Any) -> Job:
        """Return the job with other statements about its mock-up."""
        return replace(self.honest, mockups=(replace(self.honest.mockups[0], **told),))


@dataclass(frozen=True, slots=True)
class Noticed:
    """The outcome of one blunder: moved the verdict, mattered, noticed, falsely clear."""

    moved: bool
    matters: bool
    noticed: bool
    falsely_clear: bool
    honest_asked: bool


@dataclass(frozen=True, slots=True)
class Blunder:
    """One row: its words, its scene, and what it does to what was written down.

    ``seen``: whether readings can show it at all; one that leaves everything consistent is only reported. ``noticed``:
    how often it must be noticed where it matters [%]. ``counts``: the numbers of readings tried. ``label`` and
    ``truth``: its check, and the true value [mm or 1].
    """

    words: str
    spoil: Callable[[Scene], Job]
    scene: Callable[[np.random.Generator, int], Scene]
    seen: bool = True
    noticed: float = 90.0
    counts: Sequence[int] = COUNTS
    label: str = "Intake 1"
    truth: Callable[[Scene], float] = lambda scene: scene.true_mm


def check_of(report: Report, label: str) -> Check:
    """Return the check with that label."""
    return next(check for check in report.checks if check.label == label)


def try_blunder(blunder: Blunder, rng: np.random.Generator, count: int) -> Iterator[Noticed]:
    """Yield one engine, read honestly and with the blunder."""
    scene = blunder.scene(rng, count)
    right, wrong = evaluate(scene.honest), evaluate(blunder.spoil(scene))
    honest, spoiled = check_of(right, blunder.label), check_of(wrong, blunder.label)
    true = blunder.truth(scene)
    asked = {question.text for question in wrong.questions} - {question.text for question in right.questions}
    refused = spoiled.figure is None or spoiled.governing is None or spoiled.governing.bound is not Bound.EXACT
    off = 0.0 if spoiled.figure is None else abs(spoiled.figure.value - true)
    covered = spoiled.figure is not None and off <= spoiled.figure.expanded
    usual = honest.figure.expanded if honest.figure else 0.0
    yield Noticed(
        moved=spoiled.state is not honest.state,
        matters=refused or off > max(usual, MATTERS_MM),
        noticed=refused or covered or bool(asked) or bool(spoiled.questioned),
        falsely_clear=spoiled.state is State.CLEAR and _is_short(spoiled, true),
        honest_asked=bool(right.questions),
    )


def _is_short(check: Check, true: float) -> bool:
    low, high = check.limit.low, check.limit.high
    return (low is not None and true < low) or (high is not None and true > high)


def said(mockup: MockUp, **told: Any) -> MockUp:
    """Return the mock-up with other statements about it."""
    return replace(mockup, **told)
