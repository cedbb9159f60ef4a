"""Bench sums that often go wrong: preload, free less compressed, a dial, lift at the valve."""

import math
from abc import ABC, abstractmethod
from collections.abc import Iterator
from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.engine.gasket import SNUGGED_THICKNESS_U_MM, STATED_THICKNESS_U_MM, FinalGasket, GasketState
from mockup.engine.mockup import MockUp
from mockup.engine.pushrods import USUAL_PITCH_MM, WINDOW_MM
from mockup.engine.valves import Place, Side
from mockup.quantity.fields import Mm
from mockup.quantity.shown import (
    bench_text,
    format_dimension,
    format_dimension_expanded,
    format_expanded,
    mm_range,
    mm_text,
)
from mockup.quantity.typed import LengthError
from mockup.quantity.typed_deck import dial_reading
from mockup.quantity.value import BENCH_UNIT, Unit, Value
from mockup.quick.check import faults_of
from mockup.readings.pushrods import PushrodReading

MOST_PRELOAD_MM = 6.0


@dataclass(frozen=True, slots=True)
class Line:
    """One result: its words, its figure with its unit, and how it was computed."""

    label: str
    figure: str
    how: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sum(ABC):
    """A sum without a verdict; its figures are in ``unit``. Raises FaultsError."""

    unit: Unit = Unit.INCH

    @abstractmethod
    def lines(self) -> Iterator[Line]:
        """Yield the results."""

    def large(self, value: Value) -> str:
        """Format a large length with its U [mm]."""
        return f"{format_dimension(value.value, self.unit)} ±{format_dimension_expanded(value.expanded, self.unit)}"

    def small(self, value: Value) -> str:
        """Format a bench length with its U [mm]."""
        shown, unit = bench_text(value.value, self.unit), BENCH_UNIT[self.unit]
        return f"{shown.removesuffix(unit).strip()} ±{format_expanded(value.expanded, self.unit)} {unit}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PushrodSum(Sum):
    """A checking pushrod: closed length [mm], turns [1], pitch [mm], target preload [mm]."""

    closed_mm: Mm
    turns: float
    pitch_mm: Mm = USUAL_PITCH_MM
    preload_mm: Mm | None = None

    def __post_init__(self) -> None:
        wrong = self.preload_mm is not None and not 0 <= self.preload_mm <= MOST_PRELOAD_MM
        refuse([Fault("preload_mm", f"A preload of {mm_range(0, 6)}.")] if wrong else [])
        self.trial()

    def trial(self) -> PushrodReading:
        """Return the trial as a reading."""
        place = Place(1, Side.INTAKE)
        return PushrodReading(
            mockup="A", place=place, closed_mm=self.closed_mm, turns=self.turns, pitch_mm=self.pitch_mm
        )

    def lines(self) -> Iterator[Line]:
        """Yield the zero-lash length; with a preload also the length to order and its window."""
        trial = self.trial()
        zero = Value(trial.length_mm, trial.u_mm)
        pitch, closed = (format_dimension(one, self.unit) for one in (self.pitch_mm, self.closed_mm))
        yield Line(
            "Zero-lash length", f"{self.large(zero)} {self.unit}", f"{closed} + {self.turns:g} × {pitch} {self.unit}"
        )
        if self.preload_mm is None:
            return
        target = zero + Value(self.preload_mm)
        preload = bench_text(self.preload_mm, self.unit)
        yield Line("Length to order", f"{self.large(target)} {self.unit}", f"with {preload} of preload")
        low, high = (format_dimension(target.value + way * WINDOW_MM, self.unit) for way in (-1, 1))
        yield Line(
            "Near enough", f"{low} to {high} {self.unit}", f"{bench_text(WINDOW_MM, self.unit)} either way of a target"
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class GasketSum(Sum):
    """A new gasket only snugged: free and compressed [mm], and the reading over it [mm]."""

    free_mm: Mm
    compressed_mm: Mm
    read_mm: Mm | None = None

    def __post_init__(self) -> None:
        found = [
            *faults_of(self._snugged, {"gasket_mm": "free_mm"}),
            *faults_of(lambda: FinalGasket(compressed_mm=self.compressed_mm), {}),
        ]
        if not found and self.compressed_mm > self.free_mm:
            found.append(Fault("compressed_mm", "A gasket is thinner once it is torqued. Were the two swapped?"))
        if self.read_mm is not None and not 0 <= self.read_mm <= 40:
            found.append(Fault("read_mm", f"A clearance of {mm_range(0, 40)}."))
        refuse(found)

    def _snugged(self) -> MockUp:
        return MockUp(key="A", gasket_state=GasketState.SNUGGED, gasket_mm=self.free_mm)

    def lines(self) -> Iterator[Line]:
        """Yield what is subtracted from a reading taken over it, and what remains of one."""
        u = math.hypot(SNUGGED_THICKNESS_U_MM, STATED_THICKNESS_U_MM)
        off = Value(self.free_mm - self.compressed_mm, u)
        yield Line("Subtract from the reading", self.small(off), "free less compressed, for an upright valve")
        if self.read_mm is not None:
            left = Value(self.read_mm) + off.scaled(-1)
            yield Line("As it will run", self.small(left), "the reading’s own uncertainty is not included")


@dataclass(frozen=True, slots=True, kw_only=True)
class LiftSum(Sum):
    """A lobe's lift [mm], a rocker ratio [1], and the lash at the valve, if any [mm]."""

    lobe_mm: Mm
    ratio: float
    lash_mm: Mm | None = None

    def __post_init__(self) -> None:
        found = [] if 0 < self.lobe_mm <= 30 else [Fault("lobe_mm", f"A lobe lift above 0, up to {mm_text(30)}.")]
        if not 0.5 <= self.ratio <= 3:
            found.append(Fault("ratio", "A rocker ratio of 0.5 to 3; 1 where the lobe works on the valve."))
        if self.lash_mm is not None and not 0 <= self.lash_mm <= 3:
            found.append(Fault("lash_mm", f"A lash of {mm_range(0, 3)}."))
        elif self.lash_mm and not found and self.lash_mm >= self.lobe_mm * self.ratio:
            found.append(Fault("lash_mm", "The lash would take all of the lift."))
        refuse(found)

    def lines(self) -> Iterator[Line]:
        """Yield the lift at the valve; with a lash also what is left of it."""
        lobe, lift = (format_dimension(one, self.unit) for one in (self.lobe_mm, self.lobe_mm * self.ratio))
        how = f"{lobe} × {self.ratio:g}; a rocker’s true ratio changes a little as it swings"
        yield Line("Lift at the valve", f"{lift} {self.unit}", how)
        if self.lash_mm:
            net = format_dimension(self.lobe_mm * self.ratio - self.lash_mm, self.unit)
            less = bench_text(self.lash_mm, self.unit)
            yield Line("Less lash", f"{net} {self.unit}", f"{less} at the valve; no clearance counts on it")


@dataclass(frozen=True, slots=True, kw_only=True)
class DialSum(Sum):
    """Where a needle stopped [1], of how many divisions, after how many turns, which way."""

    shown: float
    divisions: int = 100
    turns: int = 0
    backwards: bool = True

    def __post_init__(self) -> None:
        try:
            self.came_to()
        except LengthError as error:
            refuse([Fault("shown", str(error))])

    def came_to(self) -> float:
        """The total reading of the dial [1]."""
        return dial_reading(self.divisions, self.shown, self.turns, backwards=self.backwards)

    def lines(self) -> Iterator[Line]:
        """Yield the total reading, and how it was computed."""
        way = "backwards" if self.backwards else "forwards"
        whole = f"{self.turns} whole turns and " if self.turns else ""
        yield Line("The dial reads", f"{self.came_to():g} divisions", f"{whole}{way} to {self.shown:g}")
