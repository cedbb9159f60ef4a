"""Mistakes people make at the bench, tried on virtual engines: what they do to a verdict, and whether they are noticed.

A scene is an engine of four cylinders that one hand reads honestly; a blunder spoils what it wrote down. The intake of
cylinder 1 has 20 thou less than its limit asks, so that calling it clear is false. What a blunder is worth is common
practice, no source.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from mockup.checks.check import Check
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side
from mockup.evaluate import evaluate
from mockup.job import Job
from mockup.limits.judge import Bound, State
from mockup.limits.margins import LimitName
from mockup.readings.sweep import SweepReading
from mockup.report import Report
from virtual.bench import (
    Hand,
    Mocked,
    VirtualBench,
    a_hand,
    cam_card,
    measured_table,
    on_the_final_gasket,
    replace_lift,
)
from virtual.engine import TrueEngine, true_engine
from virtual.lobes import THOU

CYLINDERS = 4
SHORT_BY_THOU = 20.0
MATTERS_MM = 5 * THOU
"""Within this of a limit builders measure again another way, so that a smaller error decides nothing: no source."""
COUNTS = (1, 2, 3, 5)
"""How many readings a valve gets, or slices."""
USUAL_DEG = {1: (10.0,), 2: (8.0, 12.0), 3: (5.0, 10.0, 15.0), 5: (0.0, 5.0, 10.0, 15.0, 20.0)}


@dataclass
class Scene:
    """One engine, one hand, one mock-up; ``count`` readings of every intake. ``lobe``: "", "card" or "table"."""

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
        """A bench with everything read but the valves."""
        bench = VirtualBench(engine or self.engine, self.hand, mock or self.mock)
        # Makers ask as much of the exhaust, or more.
        for name in (LimitName.FACE_INTAKE, LimitName.FACE_EXHAUST):
            bench.limits[name] = self.true_mm + SHORT_BY_THOU * THOU
        bench.more |= self.lobes
        bench.find_tdc()
        for cylinder in self.engine.designed.cylinder_numbers:
            bench.deck(cylinder)
            bench.volumes(cylinder)
        return bench

    def swept(self, engine: TrueEngine | None = None, mock: Mocked | None = None) -> VirtualBench:
        """A bench with every intake read ``count`` times by indicator, or its clay cut."""
        bench = self.bench(engine, mock)
        for cylinder in self.engine.designed.cylinder_numbers:
            self.read(bench, cylinder)
        return bench

    def read(self, bench: VirtualBench, cylinder: int) -> None:
        """Read one intake as this scene reads."""
        if self.clay:
            bench.clay(cylinder, Side.INTAKE, self.count, 3.0)
            return
        for at in USUAL_DEG[self.count]:
            bench.sweep(cylinder, Side.INTAKE, at)

    @cached_property
    def shut(self) -> TrueEngine:
        """The same engine with its valves shut, as at firing TDC."""
        return replace(self.engine, valves={at: replace_lift(valve) for at, valve in self.engine.valves.items()})

    @cached_property
    def honest(self) -> Job:
        """What was written down without a blunder."""
        return self.swept().job()

    def but(self, change: Callable[[SweepReading], SweepReading]) -> Job:
        """What was written down, its indicator readings changed one by one."""
        kept = self.honest.readings
        return replace(
            self.honest, readings=tuple(change(one) if isinstance(one, SweepReading) else one for one in kept)
        )

    def under(self, **told: Any) -> Job:
        """What was written down, in a mock-up of which something else is told."""
        return replace(self.honest, mockups=(replace(self.honest.mockups[0], **told),))


@dataclass(frozen=True, slots=True)
class Noticed:
    """What one blunder did: whether it moved the verdict, mattered, was noticed, ended falsely clear; honest asked."""

    moved: bool
    matters: bool
    noticed: bool
    falsely_clear: bool
    honest_asked: bool


@dataclass(frozen=True, slots=True)
class Blunder:
    """A row: its words, the scene it is made in, and what it makes of what was written down.

    ``seen``: whether readings can show it at all; one that leaves everything consistent is only told of. ``noticed``:
    how often it must be, where it matters [%]. ``counts``: of how many readings it is tried. ``label`` and ``truth``:
    the check it is about, and what is true of that [mm or 1].
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
    """The check of that label."""
    return next(check for check in report.checks if check.label == label)


def try_blunder(blunder: Blunder, rng: np.random.Generator, count: int) -> Iterator[Noticed]:
    """One engine, read honestly and with the blunder."""
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
    """The mock-up with something else told of it."""
    return replace(mockup, **told)
