"""Quick check: one reading of one valve, judged by itself before anything is known of its engine.

What nobody said is not supposed to be known: a gasket that is not known counts with its whole range, the valve's
angle is said to be left out, and what it would change. The figure is made by ``evaluate``, like every other.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.checks.check import Kind
from mockup.checks.valves import FACE_KINDS
from mockup.engine.block import Engine
from mockup.engine.gasket import SQUEEZED_MM, THICKEST_USUAL_MM, THINNEST_USUAL_MM, FinalGasket, GasketState
from mockup.engine.mockup import Bolts, Clay, DialTurns, Lifters, MockUp, Overlap, Springs
from mockup.engine.valves import UNSAID_DEG, Place, Side
from mockup.faults import Fault
from mockup.instruments import DEFAULT_INSTRUMENTS, FEELERS, INDICATOR
from mockup.job import Job
from mockup.limits.sheets import READY_MADE
from mockup.quantity.fields import Mm
from mockup.quantity.shown import bench_text, format_bench
from mockup.quick.check import Part, Quick
from mockup.readings.basis import Basis
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.sweep import SweepReading
from mockup.record import Reading
from mockup.topics import Topic

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

    @property
    def state(self) -> GasketState:
        """What a mock-up calls it."""
        return {
            Under.UNKNOWN: GasketState.UNKNOWN,
            Under.FINAL: GasketState.FINAL,
            Under.USED: GasketState.SAME_USED,
            Under.SNUGGED: GasketState.SNUGGED,
            Under.NONE: GasketState.NONE,
            Under.OTHER: GasketState.COMPRESSED,
        }[self]


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
    thickness in the mock-up (free, where it was only snugged) and as it will run [mm]. ``turned_step_deg``: how the
    crank was turned for the smallest [deg], 0 past it and back. What nobody said counts as the less favourable.
    """

    read_mm: Mm
    side: Side = Side.INTAKE
    method: Method = Method.CLAY
    crank_deg: float | None = None
    under: Under = Under.UNKNOWN
    stood_mm: Mm | None = None
    final_mm: Mm | None = None
    lifters: Lifters = Lifters.NOT_SAID
    springs: Springs = Springs.NOT_SAID
    clay: Clay = Clay.MODELLING
    two_turns: bool = False
    overlap: Overlap = Overlap.NOT_SAID
    dial_turns: DialTurns = DialTurns.NOT_SAID
    turned_step_deg: float | None = None

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
        return MockUp(
            key="A",
            gasket_state=self.under.state,
            gasket_mm=(self.stood_mm or 0.0) if self.under in (Under.SNUGGED, Under.OTHER) else 0.0,
            bolts=torqued,
            lifters=self.lifters,
            springs=self.springs,
            clay=self.clay,
            two_turns=self.two_turns,
            overlap=self.overlap,
            dial_turns=self.dial_turns,
        )

    @property
    def final(self) -> FinalGasket | None:
        """The gasket it will run, where anybody said."""
        said = self.final_mm if self.under in (Under.SNUGGED, Under.OTHER, Under.NONE) else None
        return None if said is None else FinalGasket(compressed_mm=said)

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
            turned_step_deg=None if self.method is Method.ANGLE else self.turned_step_deg,
            instrument=FEELERS if self.method is Method.FEELERS else INDICATOR,
        )

    @property
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        return Topic.VALVES

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:
        """Its reading as a book takes it."""
        yield "read_mm", self.reading(key="", mockup=mockup)

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
        more = Basis(self.job).gasket_more(self.mockup, 0)
        moved = more.value if more else 0.0
        less = abs(moved) * (1 - math.cos(math.radians(UNSAID_DEG)))
        angle = f"; at {UNSAID_DEG:g}° the gasket would count {bench_text(less, self.unit)} less" if moved else ""
        words = [f"The valve upright{angle}."]
        if self.under is Under.UNKNOWN:
            span = f"{format_bench(THINNEST_USUAL_MM, self.unit)} to {bench_text(THICKEST_USUAL_MM, self.unit)}"
            words.append(f"Both gaskets anywhere from {span}: the figure is as mocked up.")
        if self.under is Under.SNUGGED and self.stood_mm is None:
            words.append(f"The gasket {self._squeezed} thinner once torqued.")
        if self.under not in (Under.FINAL, Under.SNUGGED):
            words.append("The head only snugged while it was read, not torqued.")
        words.append("No lash left in, and cam, rockers and pistons as they will run.")
        return tuple(words)
