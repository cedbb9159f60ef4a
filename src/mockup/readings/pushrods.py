"""Pushrods: the length that leaves no play and no push, per valve; what the roller or tip wipes; the base circle.

zero-lash length = closed length of the checker + turns x pitch, or read off with a caliper (common practice).
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from mockup.engine.block import Engine
from mockup.engine.changes import Change, ChangeKind, Touched, bore_rungs, done_since, since_words
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import MockUp
from mockup.faults import Fault, FaultsError, refuse
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.value import MM_PER_INCH, Value, rectangular
from mockup.readings.clay import Place
from mockup.readings.record import Reading, standing

USUAL_PITCH_MM = 0.050 * MM_PER_INCH
TURN_U = rectangular(0.1)
"""Turns of a checker are counted to a tenth: common practice, no source."""
CALIPER_U_MM = rectangular(0.002 * MM_PER_INCH)
LENGTHS_MM = (40.0, 500.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class PushrodReading(Reading):
    """One trial of one valve in the mock-up ``mockup``: ``closed_mm`` + ``turns`` x ``pitch_mm`` [mm].

    No turns: ``closed_mm`` is the whole length, read off with a caliper. Raises FaultsError.
    """

    mockup: str
    place: Place
    closed_mm: float
    turns: float = 0.0
    pitch_mm: float = USUAL_PITCH_MM

    def __post_init__(self) -> None:
        found = []
        if not 0 <= self.turns <= 60:
            found.append(Fault("turns", "From 0 to 60 turns."))
        if not 0.2 <= self.pitch_mm <= 3:
            found.append(Fault("pitch_mm", "A pitch of 0.2 to 3 mm (0.008 to 0.118 in) a turn."))
        low, high = LENGTHS_MM
        if not found and not low <= self.length_mm <= high:
            found.append(Fault("closed_mm", f"A pushrod of {low:g} to {high:g} mm (1.57 to 19.7 in)."))
        refuse(found)

    @property
    def length_mm(self) -> float:
        """The zero-lash length of this trial [mm]."""
        return self.closed_mm + self.turns * self.pitch_mm

    @property
    def u_mm(self) -> float:
        """Standard uncertainty of this trial [mm]."""
        return math.hypot(CALIPER_U_MM, TURN_U * self.pitch_mm if self.turns else 0.0)


class Lifter(StrEnum):
    """What a pushrod stands on in the engine as it will run."""

    HYDRAULIC = "hydraulic"
    SOLID = "solid"


@dataclass(frozen=True, slots=True, kw_only=True)
class PushrodChoice:
    """What the pushrods are chosen by.

    ``low_mm``, ``high_mm``: window of preload (hydraulic) or of lash at the valve (solid) [mm], 0 to 6; ``aim_mm`` what
    is aimed at in it. ``step_mm``: the maker's lengths lie this far apart [mm], 0 where there is no step.
    ``lean_deg``: how far a pushrod leans from the bore [deg]. ``chosen_mm`` the length bought [mm], None before.
    """

    lifter: Lifter = Lifter.HYDRAULIC
    low_mm: float
    high_mm: float
    aim_mm: float
    step_mm: float = USUAL_PITCH_MM
    lean_deg: float = 0.0
    chosen_mm: float | None = None

    def __post_init__(self) -> None:
        found = []
        if not 0 <= self.low_mm <= self.aim_mm <= self.high_mm <= 6:
            found.append(Fault("aim_mm", "Least, aim and most go up in that order, from 0 to 6 mm (0.236 in)."))
        if not 0 <= self.step_mm <= 30:
            found.append(Fault("step_mm", "A step of 0 to 30 mm (1.18 in)."))
        if not 0 <= self.lean_deg <= 40:
            found.append(Fault("lean_deg", "A lean of 0 to 40 degrees."))
        low, high = LENGTHS_MM
        if self.chosen_mm is not None and not low <= self.chosen_mm <= high:
            found.append(Fault("chosen_mm", f"A pushrod of {low:g} to {high:g} mm (1.57 to 19.7 in)."))
        refuse(found)

    def target_mm(self, zero_mm: float, ratio: float) -> float:
        """The length aimed at from a zero-lash length [mm]: plus preload, or less the lash at the pushrod side."""
        return zero_mm + self.aim_mm if self.lifter is Lifter.HYDRAULIC else zero_mm - self.aim_mm / ratio

    def left_mm(self, length_mm: float, zero_mm: float, ratio: float) -> float:
        """What a length gives: preload, or lash at the valve [mm]; negative is the other of the two."""
        return length_mm - zero_mm if self.lifter is Lifter.HYDRAULIC else (zero_mm - length_mm) * ratio


def longer(choice: PushrodChoice | None, by_mm: float) -> PushrodChoice:
    """Pushrods longer by so much [mm] than those chosen. Raises FaultsError where none were."""
    if choice is None or choice.chosen_mm is None:
        raise FaultsError([Fault("pushrods", "No pushrods are chosen yet: choose their length first.")])
    return replace(choice, chosen_mm=round(choice.chosen_mm + by_mm, 6))


@dataclass(frozen=True, slots=True)
class PushrodFigure:
    """One valve's zero-lash length as the engine will run [mm], how it came about, its trials, changes since."""

    zero: Value
    ladder: tuple[Rung, ...]
    readings: tuple[PushrodReading, ...]
    carried: tuple[str, ...]

    @property
    def spread_mm(self) -> float:
        """Between the longest and the shortest trial [mm]."""
        lengths = [reading.length_mm for reading in self.readings]
        return max(lengths) - min(lengths)


@dataclass(frozen=True, slots=True, kw_only=True)
class PushrodConditions:
    """What a zero-lash length is carried to: engine, final gasket, changes done, mock-ups by letter, lean [deg]."""

    engine: Engine
    final: FinalGasket | None
    changes: tuple[Change, ...]
    mockups: Mapping[str, MockUp]
    lean_deg: float


def pushrod_figures(readings: Iterable[PushrodReading], run: PushrodConditions) -> dict[Place, PushrodFigure]:
    """The zero-lash length of each valve that was tried, in its newest mock-up, by place.

    A gasket, deck or shims that differ by dz afterwards move it by dz x cos(lean).
    """
    tried: dict[Place, list[PushrodReading]] = {}
    for reading in standing(readings):
        tried.setdefault(reading.place, []).append(reading)
    return {place: _figure(tried[place], run) for place in sorted(tried, key=lambda place: place.bench_order)}


def _figure(readings: list[PushrodReading], run: PushrodConditions) -> PushrodFigure:
    newest = [r for r in readings if (r.mockup, r.after) == (readings[-1].mockup, readings[-1].after)]
    lengths = np.array([reading.length_mm for reading in newest])
    scatter = float(lengths.std(ddof=1)) / math.sqrt(len(lengths)) if len(lengths) > 1 else 0.0
    read = Value(float(lengths.mean()), math.hypot(max(reading.u_mm for reading in newest), scatter))
    share = math.cos(math.radians(run.lean_deg))
    rungs = [Rung("zero-lash length as tried", read, Doubt.REPEATABILITY)]
    mockup = run.mockups.get(newest[0].mockup)
    if run.final and mockup:
        gasket = run.final.thickness + mockup.gasket.scaled(-1)
        rungs.append(Rung("gasket as mocked up, to the final one", gasket.scaled(share), Doubt.GASKET))
    moved = _cuts(newest[0], run)
    rungs += [Rung(rung.text, rung.delta.scaled(share), rung.of) for rung in moved]
    return PushrodFigure(running_figure(rungs), tuple(rungs), tuple(newest), tuple(rung.text for rung in moved))


def _cuts(reading: PushrodReading, run: PushrodConditions) -> tuple[Rung, ...]:
    """Decks and heads cut since: the head comes down. Other pistons do not move it; sunk valves and rockers may."""
    place = reading.place
    cuts = bore_rungs(run.changes, reading.after, place.cylinder, run.engine, Touched.PUSHROD)
    others = (
        Rung(f"{since_words(change, 'tried')}: by how much it moved is not known", Value(0.0))
        for change in done_since(run.changes, reading.after)
        if change.kind in (ChangeKind.ROCKERS, ChangeKind.SINK) and change.is_of(place.side)
    )
    return (*cuts, *others)


@dataclass(frozen=True, slots=True)
class LengthOption:
    """One length that can be had [mm], and the preload or lash at the valve it would give one valve [mm]."""

    length_mm: float
    gives_mm: float
    fits: bool


def length_options(
    choice: PushrodChoice, zero_mm: float, ratio: float, shelf_mm: Iterable[float] = ()
) -> tuple[LengthOption, ...]:
    """The lengths either side of the target: in the maker's step, and those on the shelf, shortest first."""
    target = choice.target_mm(zero_mm, ratio)
    lengths = {round(length, 6) for length in shelf_mm}
    if choice.step_mm:
        below = math.floor(target / choice.step_mm + 1e-9)
        lengths |= {round(count * choice.step_mm, 6) for count in (below, below + 1)}
    found = []
    for length in sorted(lengths):
        gives = choice.left_mm(length, zero_mm, ratio)
        found.append(LengthOption(length, gives, choice.low_mm - 1e-6 <= gives <= choice.high_mm + 1e-6))
    return tuple(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class WipeReading(Reading):
    """The wipe pattern across a valve's tip: where it starts and ends from the tip's inner edge [mm], tip width [mm].

    ``square``: the rocker stood square to the valve at half lift; None where nobody looked. Raises FaultsError.
    """

    mockup: str
    place: Place
    start_mm: float
    end_mm: float
    tip_mm: float
    square: bool | None = None

    def __post_init__(self) -> None:
        found = []
        if not 2 <= self.tip_mm <= 20:
            found.append(Fault("tip_mm", "A valve tip of 2 to 20 mm (0.08 to 0.79 in) across."))
        elif not 0 <= self.start_mm < self.end_mm <= self.tip_mm:
            found.append(Fault("end_mm", "The pattern starts and ends on the tip, in that order."))
        refuse(found)

    @property
    def width_mm(self) -> float:
        """How wide the pattern is [mm]."""
        return self.end_mm - self.start_mm

    @property
    def off_centre_mm(self) -> float:
        """How far its middle lies from the tip's, positive outward from the rocker's pivot [mm]."""
        return (self.start_mm + self.end_mm - self.tip_mm) / 2

    @property
    def centred(self) -> bool:
        """Whether its middle lies within a tenth of the tip of the tip's own: common practice, no source."""
        return abs(self.off_centre_mm) <= self.tip_mm / 10
