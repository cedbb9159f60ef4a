"""The short block: layout, crank, rod and bore, with the ranges this program will work in."""

import math
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Annotated

from mockup.engine.valves import Place, Side, ValveRow
from mockup.faults import Fault, refuse
from mockup.quantity.fields import Mm, Most, Within, outside
from mockup.quantity.shown import format_dimension
from mockup.quantity.value import Unit, rectangular


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

DIMENSION_KNOWN_TO_MM = 0.02
DIMENSION_U_MM = rectangular(DIMENSION_KNOWN_TO_MM)
"""Bore, stroke, rod and gasket bore as given, +-0.02 mm where nothing is stated: common practice, no source."""
DIMENSIONS_KNOWN = ("bore_mm", "stroke_mm", "rod_length_mm")
"""Dimensions whose uncertainty may be stated."""
USUAL_BORE_MM = 90.0
STROKE_EITHER_WAY = 0.35
"""A stroke that nobody said is taken for as long as the bore is wide, and may be off by this share of it either way."""
ROD_RATIO = 1.75
ROD_EITHER_WAY = 0.2
"""A rod that nobody said is taken for this many strokes long, and may be off by this share of that either way."""
# These are common practice, no source.


def known_to_name(dimension: str) -> str:
    """What the uncertainty of a dimension is called among an engine's fields."""
    return f"{dimension.removesuffix('_mm')}_known_to_mm"


CC_PER_MM3 = 1e-3


def _within(dimension: str) -> Within:
    """The range of a dimension, and what to say of one outside it, in both units."""
    low, high = DIMENSION_RANGES_MM[dimension]
    inches = (format_dimension(low, Unit.INCH), format_dimension(high, Unit.INCH))
    span = f"{low:g} to {high:g} mm ({inches[0]} to {inches[1]} in)".replace("-", "−")
    return Within(low, high, f"Outside {span}. Is the unit right?")


@dataclass(frozen=True, slots=True)
class Sizes:
    """Bore, stroke and rod to count with [mm]: where nobody said one, what is usual stands in, with a wide u."""

    bore_mm: float
    stroke_mm: float
    rod_length_mm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Engine:
    """One engine as designed.

    ``bore_mm``, ``stroke_mm``, ``rod_length_mm`` [mm] in DIMENSION_RANGES_MM, each None while nobody said it (``sizes``
    has what is counted with then); ``pin_offset_mm`` [mm], positive toward the major thrust side; ``rocker_ratio`` [1],
    1 to 3 (1 where a cam follower acts straight on the valve), None while nobody said it; ``firing_order`` every
    cylinder number once, or empty while it is not known;
    ``bore_spacing_mm`` from bore to bore along the block [mm], 20 to 600, or 0 while it is not known;
    ``separate_barrels``: every cylinder has a barrel of its own, on base shims, in place of a deck for the bank.
    ``pistons_reversed``: it will run with its pistons turned about, on purpose: their pin offset is to the other side.
    ``bore_known_to_mm``, ``stroke_known_to_mm``, ``rod_length_known_to_mm``: how truly each is known, +- [mm], 0 to 1;
    0 for the usual DIMENSION_KNOWN_TO_MM. Raises FaultsError with every fault, and where the parts cannot turn.
    """

    layout: Layout = Layout.INLINE
    numbering: Numbering = Numbering.ALTERNATE
    cylinders: Annotated[int, Within(1, MOST_CYLINDERS, f"One to {MOST_CYLINDERS} cylinders.")]
    bore_mm: Annotated[Mm | None, _within("bore_mm")] = None
    stroke_mm: Annotated[Mm | None, _within("stroke_mm")] = None
    rod_length_mm: Annotated[Mm | None, _within("rod_length_mm")] = None
    pin_offset_mm: Annotated[Mm, _within("pin_offset_mm")] = 0.0
    rocker_ratio: float | None = None
    firing_order: Annotated[tuple[int, ...], Most(MOST_CYLINDERS)] = ()
    bore_spacing_mm: Mm = 0.0
    separate_barrels: bool = False
    intake: ValveRow = field(default_factory=ValveRow)
    exhaust: ValveRow = field(default_factory=ValveRow)
    pistons_reversed: bool = False
    bore_known_to_mm: Mm = 0.0
    stroke_known_to_mm: Mm = 0.0
    rod_length_known_to_mm: Mm = 0.0

    def __post_init__(self) -> None:
        found = self._range_faults() + self.intake.faults("intake") + self.exhaust.faults("exhaust")
        refuse(found or self._turning_faults())

    def _range_faults(self) -> list[Fault]:
        found = outside(self)
        if self.layout is not Layout.INLINE and self.cylinders % 2:
            found.append(Fault("cylinders", "Two banks need an even number of cylinders."))
        if self.firing_order and sorted(self.firing_order) != list(self.cylinder_numbers):
            found.append(Fault("firing_order", "Every cylinder once, as in 1-5-3-6-2-4; or leave it empty."))
        if self.bore_spacing_mm and not max(20.0, self.bore_mm or 0.0) <= self.bore_spacing_mm <= 600:
            found.append(Fault("bore_spacing_mm", "Bores stand further apart than they are wide, up to 600 mm."))
        found += [
            Fault(name, "Known to within 0 to 1 mm (0.039 in).")
            for name in map(known_to_name, DIMENSIONS_KNOWN)
            if not 0 <= getattr(self, name) <= 1
        ]
        if self.rocker_ratio is not None and not 1.0 <= self.rocker_ratio <= 3.0:
            found.append(Fault("rocker_ratio", "A ratio of 1 to 3; 1 where a follower acts straight on the valve."))
        return found

    def _turning_faults(self) -> list[Fault]:
        sizes = self.sizes
        if sizes.rod_length_mm > sizes.stroke_mm / 2 + abs(self.pin_offset_mm):
            return []
        return [
            Fault("rod_length_mm", "The crank cannot turn: the rod must be longer than half the stroke plus offset.")
        ]

    def u_of(self, dimension: str) -> float:
        """Standard uncertainty of one of DIMENSIONS_KNOWN [mm]: as stated, else as is usual; wide where unsaid."""
        if getattr(self, dimension) is None:
            share = {"stroke_mm": STROKE_EITHER_WAY, "rod_length_mm": ROD_EITHER_WAY}.get(dimension, STROKE_EITHER_WAY)
            return rectangular(share * float(getattr(self.sizes, dimension)))
        return rectangular(getattr(self, known_to_name(dimension)) or DIMENSION_KNOWN_TO_MM)

    @property
    def sizes(self) -> "Sizes":
        """What is counted with: bore, stroke and rod as they were said, or as is usual beside what was."""
        bore = self.bore_mm or self.stroke_mm or USUAL_BORE_MM
        stroke = self.stroke_mm or min(bore, (self.rod_length_mm or bore) / ROD_RATIO * 1.5)
        rod = self.rod_length_mm or max(ROD_RATIO * stroke, DIMENSION_RANGES_MM["rod_length_mm"][0])
        return Sizes(bore, stroke, rod)

    @property
    def ratio(self) -> float:
        """The rocker ratio to count with [1]: as it was said, else 1. What needs one that was said asks for that."""
        return 1.0 if self.rocker_ratio is None else self.rocker_ratio

    @property
    def unsaid(self) -> tuple[str, ...]:
        """Which of bore, stroke and rod nobody said, in words."""
        words = {"bore_mm": "bore", "stroke_mm": "stroke", "rod_length_mm": "rod length"}
        return tuple(word for name, word in words.items() if getattr(self, name) is None)

    @property
    def offset_mm(self) -> float:
        """The pin's offset as it will run [mm], positive toward the major thrust side."""
        return -self.pin_offset_mm if self.pistons_reversed else self.pin_offset_mm

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
    def swept_cc(self) -> float | None:
        """Displacement of the whole engine [cm3], pi/4 bore^2 stroke a cylinder (maker's stroke); None if unsaid."""
        if self.bore_mm is None or self.stroke_mm is None:
            return None
        return cylinder_volume(self.bore_mm, self.stroke_mm) * self.cylinders


def valve_places(engine: Engine, cylinder: int) -> list[Place]:
    """Every valve of one cylinder, in bench order."""
    return [Place(cylinder, side, number) for side in Side for number in range(1, engine.row(side).count + 1)]


def cylinder_volume(bore_mm: float, height_mm: float) -> float:
    """Volume of a cylinder, pi/4 bore^2 height: scalars [mm] or alike with uncertainty; returns [cm3]."""
    return math.pi / 4 * bore_mm * bore_mm * height_mm * CC_PER_MM3
