"""The short block: layout, crank, rod and bore, with the ranges this program accepts."""

import math
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Annotated

from mockup.base.faults import Fault, refuse
from mockup.engine.valves import Place, Side, ValveRow
from mockup.quantity.fields import Mm, Most, Within, outside
from mockup.quantity.shown import mm_range
from mockup.quantity.value import rectangular


class Layout(StrEnum):
    """The arrangement of the cylinders."""

    INLINE = "inline"
    VEE = "vee"
    FLAT = "flat"


class Numbering(StrEnum):
    """How cylinders are numbered in an engine with two banks."""

    ALTERNATE = "alternate"
    BY_BANK = "by-bank"


MOST_CYLINDERS = 16
DIMENSION_RANGES_MM = {
    "bore_mm": (20.0, 300.0),
    "stroke_mm": (15.0, 400.0),
    "rod_length_mm": (30.0, 800.0),
    "pin_offset_mm": (-10.0, 10.0),
}
"""Accepted ranges: no hand-built reciprocating engine is smaller or larger (our own bounds)."""

DIMENSION_KNOWN_TO_MM = 0.02
DIMENSION_U_MM = rectangular(DIMENSION_KNOWN_TO_MM)
"""Accuracy of bore, stroke, rod and gasket bore, +-0.02 mm unless stated: common practice, no source."""
DIMENSIONS_KNOWN = ("bore_mm", "stroke_mm", "rod_length_mm")
"""Dimensions whose uncertainty may be stated."""
USUAL_BORE_MM = 90.0
STROKE_EITHER_WAY = 0.35
"""A stroke that is not stated is taken equal to the bore, and may differ by this share either way."""
ROD_RATIO = 1.75
ROD_EITHER_WAY = 0.2
"""A rod that is not stated is taken this many strokes long, and may differ by this share either way."""
# These are common practice, no source.


def known_to_name(dimension: str) -> str:
    """Return the name of the engine field that holds a dimension's accuracy."""
    return f"{dimension.removesuffix('_mm')}_known_to_mm"


CC_PER_MM3 = 1e-3


def _within(dimension: str) -> Within:
    """Return the range of a dimension, with the message for values outside it in both units."""
    low, high = DIMENSION_RANGES_MM[dimension]
    return Within(low, high, f"Outside {mm_range(low, high)}. Is the unit right?")


@dataclass(frozen=True, slots=True)
class Sizes:
    """Bore, stroke and rod used in computing [mm]; a usual value with a wide u if not stated."""

    bore_mm: float
    stroke_mm: float
    rod_length_mm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Engine:
    """One engine as designed.

    ``bore_mm``, ``stroke_mm``, ``rod_length_mm`` [mm] in DIMENSION_RANGES_MM, or None where not stated (``sizes`` then
    holds what is used). ``pin_offset_mm`` [mm], positive toward the major thrust side. ``rocker_ratio`` [1], 1 to 3, 1
    where a follower acts straight on the valve, None where not stated. ``firing_order``: every cylinder number once, or
    empty. ``bore_spacing_mm``: from bore to bore along the block [mm], 20 to 600, 0 where not known.
    ``separate_barrels``: every cylinder has its own barrel on base shims instead of a common deck.
    ``pistons_reversed``: the pistons will run turned about on purpose, so that their pin offset is to the other side.
    ``bore_known_to_mm``, ``stroke_known_to_mm``, ``rod_length_known_to_mm``: accuracy +- [mm], 0 to 1; 0 means the
    usual DIMENSION_KNOWN_TO_MM. Raises FaultsError with every fault, also where the parts cannot turn.
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
            found.append(Fault("bore_spacing_mm", "Bores are further apart than they are wide, up to 600 mm."))
        found += [
            Fault(name, f"Known to within {mm_range(0, 1)}.")
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
        """Return the standard uncertainty of one of DIMENSIONS_KNOWN [mm]; wide where assumed."""
        if getattr(self, dimension) is None:
            share = {"stroke_mm": STROKE_EITHER_WAY, "rod_length_mm": ROD_EITHER_WAY}.get(dimension, STROKE_EITHER_WAY)
            return rectangular(share * float(getattr(self.sizes, dimension)))
        return rectangular(getattr(self, known_to_name(dimension)) or DIMENSION_KNOWN_TO_MM)

    @property
    def sizes(self) -> "Sizes":
        """Bore, stroke and rod used in computing: as stated, else of usual proportion."""
        bore = self.bore_mm or self.stroke_mm or USUAL_BORE_MM
        stroke = self.stroke_mm or min(bore, (self.rod_length_mm or bore) / ROD_RATIO * 1.5)
        rod = self.rod_length_mm or max(ROD_RATIO * stroke, DIMENSION_RANGES_MM["rod_length_mm"][0])
        return Sizes(bore, stroke, rod)

    @property
    def ratio(self) -> float:
        """The rocker ratio used in computing [1]: as stated, else 1.

        Callers that need a stated one check for it.
        """
        return 1.0 if self.rocker_ratio is None else self.rocker_ratio

    @property
    def unstated(self) -> tuple[str, ...]:
        """The names of bore, stroke and rod that are not stated."""
        words = {"bore_mm": "bore", "stroke_mm": "stroke", "rod_length_mm": "rod length"}
        return tuple(word for name, word in words.items() if getattr(self, name) is None)

    @property
    def offset_mm(self) -> float:
        """The pin offset as the engine will run [mm], positive toward the major thrust side."""
        return -self.pin_offset_mm if self.pistons_reversed else self.pin_offset_mm

    def row(self, side: Side) -> ValveRow:
        """Return the valves of one side."""
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
        """Displacement of the engine [cm3]: pi/4 bore^2 stroke a cylinder; None if not stated."""
        if self.bore_mm is None or self.stroke_mm is None:
            return None
        return cylinder_volume(self.bore_mm, self.stroke_mm) * self.cylinders


def valve_places(engine: Engine, cylinder: int) -> list[Place]:
    """Return every valve of one cylinder, in bench order."""
    return [Place(cylinder, side, number) for side in Side for number in range(1, engine.row(side).count + 1)]


def cylinder_volume(bore_mm: float, height_mm: float) -> float:
    """Return the volume of a cylinder, pi/4 bore^2 height [cm3]; arguments [mm]."""
    return math.pi / 4 * bore_mm * bore_mm * height_mm * CC_PER_MM3
