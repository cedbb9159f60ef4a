"""The short block: layout, crank, rod and bore, with the ranges this program will work in."""

import math
from dataclasses import dataclass, field
from enum import StrEnum

from mockup.engine.valves import Side, ValveRow
from mockup.faults import Fault, refuse
from mockup.quantity.shown import format_dimension
from mockup.quantity.value import Unit


class Layout(StrEnum):
    """How the cylinders stand."""

    INLINE = "inline"
    VEE = "vee"
    FLAT = "flat"


class Numbering(StrEnum):
    """How cylinders are numbered where there are two banks."""

    ALTERNATE = "alternate"
    BY_BANK = "by-bank"


MOST_CYLINDERS = 16
DIMENSION_RANGES_MM = {
    "bore_mm": (20.0, 300.0),
    "stroke_mm": (15.0, 400.0),
    "rod_length_mm": (30.0, 800.0),
    "pin_offset_mm": (-10.0, 10.0),
}
"""Refused outside: no hand-built reciprocating engine on a bench is smaller or larger (our own bounds)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Engine:
    """One engine as designed.

    ``bore_mm``, ``stroke_mm``, ``rod_length_mm`` [mm] in DIMENSION_RANGES_MM; ``pin_offset_mm`` [mm],
    positive toward the major thrust side; ``rocker_ratio`` [1], 1 to 3 (1 where a cam follower acts
    straight on the valve). Raises FaultsError with every fault, and where the parts cannot turn.
    """

    layout: Layout = Layout.INLINE
    numbering: Numbering = Numbering.ALTERNATE
    cylinders: int
    bore_mm: float
    stroke_mm: float
    rod_length_mm: float
    pin_offset_mm: float = 0.0
    rocker_ratio: float = 1.0
    intake: ValveRow = field(default_factory=ValveRow)
    exhaust: ValveRow = field(default_factory=ValveRow)

    def __post_init__(self) -> None:
        found = self._range_faults() + self.intake.faults("intake") + self.exhaust.faults("exhaust")
        refuse(found or self._turning_faults())

    def _range_faults(self) -> list[Fault]:
        found = []
        if not 1 <= self.cylinders <= MOST_CYLINDERS:
            found.append(Fault("cylinders", f"One to {MOST_CYLINDERS} cylinders."))
        if self.layout is not Layout.INLINE and self.cylinders % 2:
            found.append(Fault("cylinders", "Two banks need an even number of cylinders."))
        for name, (low, high) in DIMENSION_RANGES_MM.items():
            if not low <= getattr(self, name) <= high:
                found.append(Fault(name, dimension_message(name)))
        if not 1.0 <= self.rocker_ratio <= 3.0:
            found.append(Fault("rocker_ratio", "A ratio of 1 to 3; 1 where a follower acts straight on the valve."))
        return found

    def _turning_faults(self) -> list[Fault]:
        longest = 4 * self.stroke_mm / 2 * self.rod_length_mm > self.stroke_mm**2
        clears = self.rod_length_mm > self.stroke_mm / 2 + abs(self.pin_offset_mm)
        if longest and clears:
            return []
        return [
            Fault("rod_length_mm", "The crank cannot turn: the rod must be longer than half the stroke plus offset.")
        ]

    def row(self, side: Side) -> ValveRow:
        """The valves of one side."""
        return self.intake if side is Side.INTAKE else self.exhaust

    @property
    def cylinder_numbers(self) -> range:
        """1 to the number of cylinders."""
        return range(1, self.cylinders + 1)

    @property
    def banks(self) -> tuple[tuple[int, ...], ...]:
        """Cylinder numbers of each bank, shape (1 or 2 banks,)."""
        numbers = tuple(self.cylinder_numbers)
        if self.layout is Layout.INLINE:
            return (numbers,)
        if self.numbering is Numbering.BY_BANK:
            half = self.cylinders // 2
            return numbers[:half], numbers[half:]
        return numbers[::2], numbers[1::2]

    @property
    def swept_cc(self) -> float:
        """Displacement of the whole engine [cm3], pi/4 bore^2 stroke a cylinder (maker's stroke)."""
        return math.pi / 4 * self.bore_mm**2 * self.stroke_mm * self.cylinders / 1000


def dimension_message(name: str) -> str:
    """What to say of a dimension outside its range, in both units."""
    low, high = DIMENSION_RANGES_MM[name]
    inches = (format_dimension(low, Unit.INCH), format_dimension(high, Unit.INCH))
    span = f"{low:g} to {high:g} mm ({inches[0]} to {inches[1]} in)".replace("-", "−")
    return f"Outside {span}. Is the unit right?"
