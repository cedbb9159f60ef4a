"""Quick check: one reading of one valve, judged by itself before anything is known of its engine.

What nobody said is not supposed to be known: a gasket that is not known counts with its whole range, the valve's
angle is said to be left out, and what it would change. The figure is made by ``evaluate``, like every other.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from mockup.checks.check import Kind
from mockup.checks.valves import FACE_KINDS
from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import Bolts, Clay, Lifters, MockUp, Springs
from mockup.engine.valves import Place, Side
from mockup.faults import Fault
from mockup.instruments import DEFAULT_INSTRUMENTS, FEELERS, INDICATOR
from mockup.job import Job
from mockup.limits.sheets import READY_MADE
from mockup.quantity.fields import Mm
from mockup.quantity.shown import bench_text, format_bench
from mockup.quantity.value import MM_PER_THOU
from mockup.quick.check import Part, Quick
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.sweep import SweepReading
from mockup.record import Reading

THINNEST_MM, THICKEST_MM = 20 * MM_PER_THOU, 75 * MM_PER_THOU
"""Between these lies a head gasket that nobody knows, compressed: common practice, no source."""
MIDDLE_MM, EITHER_WAY_MM = (THINNEST_MM + THICKEST_MM) / 2, (THICKEST_MM - THINNEST_MM) / 2
SQUEEZED_MM = (5 * MM_PER_THOU, 5 * MM_PER_THOU)
"""How much a new gasket comes down when torqued, where nobody says, and how truly: common practice, no source."""
USED_MM = 2 * MM_PER_THOU
"""How far a used gasket may differ from a new one of its kind, compressed: common practice, no source."""
TRUE_MM = 1e-9
"""How truly a gasket equals itself: where it stood in the mock-up and will run, nothing is open."""
ANY_ANGLE_DEG = 20.0
"""The angle by which is told what a valve's angle would change."""
UNASKED = Engine(cylinders=1)
"""Stands where a job has its engine: nobody said anything of it."""


class Under(StrEnum):
    """What stood between head and deck, in the words people have for it."""

    UNKNOWN = "not known"
    FINAL = "the one it will run, torqued"
    USED = "the same kind, used"
    SNUGGED = "a new one, only snugged"
    NONE = "none"
    OTHER = "another one"


class Method(StrEnum):
    """How the clearance was read."""

    CLAY = "clay, thinnest place"
    TURNING = "indicator, smallest by turning"
    ANGLE = "indicator, at an angle"
    FEELERS = "feelers, smallest by turning"


@dataclass(frozen=True, slots=True, kw_only=True)
class QuickCheck(Quick):
    """One reading [mm], 0 to 40, and what is known beside it. Raises FaultsError.

    ``crank_deg``: of an indicator at an angle, about overlap TDC [deg]. ``stood_mm``, ``final_mm``: the gasket's
    thickness in the mock-up (free, where it was only snugged) and as it will run [mm].
    """

    read_mm: Mm
    side: Side = Side.INTAKE
    method: Method = Method.CLAY
    crank_deg: float | None = None
    under: Under = Under.UNKNOWN
    stood_mm: Mm | None = None
    final_mm: Mm | None = None
    lifters: Lifters = Lifters.BLOCKED
    springs: Springs = Springs.CHECKING
    clay: Clay = Clay.MODELLING

    def parts(self) -> Iterable[Part]:
        """The records it is made of."""
        yield lambda: self.mockup, {"gasket_mm": "stood_mm"}
        yield lambda: self.final, {"compressed_mm": "final_mm"}
        yield self.reading, {"thickness_mm": "read_mm", "clearance_mm": "read_mm"}

    def _missing(self) -> Iterable[Fault]:
        if self.method is Method.ANGLE and self.crank_deg is None:
            yield Fault("crank_deg", "Say at which angle, as in 9 ATDC.")
        if self.under in (Under.NONE, Under.OTHER) and self.final_mm is None:
            yield Fault("final_mm", "Say how thick the one is that it will run: without it nothing can be corrected.")
        if self.under is Under.OTHER and self.stood_mm is None:
            yield Fault("stood_mm", "Say how thick the one in the mock-up was.")
        if self.under is Under.SNUGGED and (self.stood_mm is None) != (self.final_mm is None):
            missing = "stood_mm" if self.stood_mm is None else "final_mm"
            yield Fault(missing, f"Both thicknesses, free and compressed, or neither: then {self._squeezed} come off.")

    @property
    def _squeezed(self) -> str:
        return f"{format_bench(SQUEEZED_MM[0], self.unit)} ± {bench_text(SQUEEZED_MM[1], self.unit)}"

    @property
    def kind(self) -> Kind:
        """What is judged."""
        return FACE_KINDS[self.side]

    @property
    def mockup(self) -> MockUp:
        """The conditions it was read under; its gasket as far as anybody said."""
        torqued = Bolts.TORQUED if self.under is Under.FINAL else Bolts.SNUGGED
        return MockUp(key="A", bolts=torqued, lifters=self.lifters, springs=self.springs, clay=self.clay, **self._stood)

    @property
    def _stood(self) -> dict[str, Any]:
        if self.under is Under.NONE:
            return {"gasket_state": GasketState.NONE}
        if self.under is Under.SNUGGED and self.stood_mm is not None:
            return {"gasket_state": GasketState.SNUGGED, "gasket_mm": self.stood_mm}
        thick, known = {
            Under.UNKNOWN: (MIDDLE_MM, EITHER_WAY_MM),
            Under.FINAL: (MIDDLE_MM, TRUE_MM),
            Under.USED: (MIDDLE_MM, USED_MM),
            Under.SNUGGED: (MIDDLE_MM + SQUEEZED_MM[0], SQUEEZED_MM[1]),
            Under.OTHER: (self.stood_mm, 0.0),
        }[self.under]
        return {"gasket_state": GasketState.COMPRESSED, "gasket_mm": thick, "gasket_known_to_mm": known}

    @property
    def final(self) -> FinalGasket:
        """The gasket it will run, as far as anybody said."""
        if self.under in (Under.SNUGGED, Under.OTHER, Under.NONE) and self.final_mm is not None:
            return FinalGasket(compressed_mm=self.final_mm)
        known = EITHER_WAY_MM if self.under is Under.UNKNOWN else TRUE_MM
        return FinalGasket(compressed_mm=MIDDLE_MM, known_to_mm=known)

    def reading(self, key: str = "read", cylinder: int = 1, mockup: str = "A") -> Reading:
        """The reading as a book takes it."""
        place = Place(cylinder, self.side)
        if self.method is Method.CLAY:
            return ClayReading(key=key, mockup=mockup, place=place, gap=Gap.FACE, thickness_mm=self.read_mm)
        return SweepReading(
            key=key,
            mockup=mockup,
            place=place,
            clearance_mm=self.read_mm,
            crank_deg=self.crank_deg or 0.0,
            by_turning=self.method is not Method.ANGLE,
            instrument=FEELERS if self.method is Method.FEELERS else INDICATOR,
        )

    @property
    def job(self) -> Job:
        """It as a job of its own."""
        return Job(
            name="Quick check",
            unit=self.unit,
            engine=UNASKED,
            sheet=READY_MADE[self.sheet],
            final_gasket=self.final,
            mockups=(self.mockup,),
            readings=(self.reading(),),
            instruments=DEFAULT_INSTRUMENTS,
        )

    def supposed(self) -> tuple[str, ...]:
        """What the answer supposes because nobody said it, and what that may change."""
        moved = self.final.compressed_mm - self.mockup.gasket_mm
        less = abs(moved) * (1 - math.cos(math.radians(ANY_ANGLE_DEG)))
        angle = f"; at {ANY_ANGLE_DEG:g}° the gasket would count {bench_text(less, self.unit)} less" if moved else ""
        words = [f"The valve upright{angle}."]
        if self.under is Under.UNKNOWN:
            span = f"{format_bench(THINNEST_MM, self.unit)} to {bench_text(THICKEST_MM, self.unit)}"
            words.append(f"Both gaskets anywhere from {span}: the figure is as mocked up.")
        if self.under is Under.SNUGGED and self.stood_mm is None:
            words.append(f"The gasket {self._squeezed} thinner once torqued.")
        if self.under not in (Under.FINAL, Under.SNUGGED):
            words.append("The head only snugged while it was read, not torqued.")
        words.append("No lash left in, and cam, rockers and pistons as they will run.")
        return tuple(words)
