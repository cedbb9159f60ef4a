"""Quick check: one reading of one valve, judged before its engine is known.

Nothing unstated counts as known: an unknown gasket counts with its whole range, and the answer says that the valve's
angle is left out and what it would change. ``evaluate`` makes the figure, like every other.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.base.faults import Fault
from mockup.base.topics import Topic
from mockup.checks.check import Kind
from mockup.checks.valves import FACE_KINDS
from mockup.context import EvaluationContext
from mockup.engine.block import Engine
from mockup.engine.gasket import SQUEEZED_MM, THICKEST_USUAL_MM, THINNEST_USUAL_MM, FinalGasket, GasketState
from mockup.engine.mockup import Bolts, Clay, DialTurns, Lifters, MockUp, Overlap, Springs
from mockup.engine.valves import UNSTATED_DEG, Place, Side
from mockup.job import Job
from mockup.limits.schools import READY_MADE
from mockup.quantity.fields import Mm
from mockup.quantity.shown import bench_text, format_bench
from mockup.quick.check import Part, Quick
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, FEELERS, INDICATOR
from mockup.readings.record import Reading
from mockup.readings.sweep import SweepReading

UNASKED = Engine(cylinders=1)
"""A stand-in for the job's engine, with nothing stated."""


class Under(StrEnum):
    """What was between head and deck, in everyday words."""

    UNKNOWN = "not known"
    FINAL = "the one it will run, torqued"
    USED = "the same kind, used"
    SNUGGED = "a new one, only snugged"
    NONE = "none"
    OTHER = "another one"

    @property
    def state(self) -> GasketState:
        """The state as a mock-up names it."""
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
    """One reading [mm], 0 to 40, and what is known with it. Raises FaultsError.

    ``read_half_mm``: half the step of feelers, where one goes and the other does not [mm]; clay is not read so, and the
    reading counts as one by feelers. ``crank_deg``: for an indicator at an angle, about overlap TDC [deg].
    ``stood_mm``, ``final_mm``: the gasket's thickness in the mock-up (free if only snugged) and as it will run [mm].
    ``turned_step_deg``: how the crank was turned for the smallest [deg], 0 past it and back. Anything not stated counts
    as the less favourable answer.
    """

    read_mm: Mm
    read_half_mm: Mm = 0.0
    side: Side = Side.INTAKE
    method: Method = Method.CLAY
    crank_deg: float | None = None
    under: Under = Under.UNKNOWN
    stood_mm: Mm | None = None
    final_mm: Mm | None = None
    lifters: Lifters = Lifters.NOT_STATED
    springs: Springs = Springs.NOT_STATED
    clay: Clay = Clay.MODELLING
    two_turns: bool = False
    overlap: Overlap = Overlap.NOT_STATED
    dial_turns: DialTurns = DialTurns.NOT_STATED
    turned_step_deg: float | None = None

    def parts(self) -> Iterable[Part]:
        """Return the records it is made of."""
        yield lambda: self.mockup, {"gasket_mm": "stood_mm"}
        yield lambda: self.final, {"compressed_mm": "final_mm"}
        yield self.reading, {"thickness_mm": "read_mm", "clearance_mm": "read_mm", "half_width_mm": "read_mm"}

    def _missing(self) -> Iterable[Fault]:
        if self.method is Method.ANGLE and self.crank_deg is None:
            yield Fault("crank_deg", "Enter the angle, as in 9 ATDC.")
        if self.under in (Under.NONE, Under.OTHER) and self.final_mm is None:
            yield Fault("final_mm", "Enter the thickness of the final gasket: without it nothing can be corrected.")
        if self.under is Under.OTHER and self.stood_mm is None:
            yield Fault("stood_mm", "Enter the thickness of the mock-up’s gasket.")
        if self.under is Under.SNUGGED and (self.stood_mm is None) != (self.final_mm is None):
            missing = "stood_mm" if self.stood_mm is None else "final_mm"
            yield Fault(
                missing, f"Both thicknesses, free and compressed, or neither: then {self._squeezed} are subtracted."
            )

    @property
    def _squeezed(self) -> str:
        return f"{format_bench(SQUEEZED_MM[0], self.unit)} ± {bench_text(SQUEEZED_MM[1], self.unit)}"

    @property
    def kind(self) -> Kind:
        """The kind of check that judges it."""
        return FACE_KINDS[self.side]

    @property
    def mockup(self) -> MockUp:
        """The conditions it was read under, with the gasket if stated."""
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
        """The final gasket, if one was stated."""
        said = self.final_mm if self.under in (Under.SNUGGED, Under.OTHER, Under.NONE) else None
        return None if said is None else FinalGasket(compressed_mm=said)

    def reading(self, key: str = "read", cylinder: int = 1, mockup: str = "A") -> Reading:
        """Return the reading as a log stores it."""
        place = Place(cylinder, self.side)
        if self.used is Method.CLAY:
            return ClayReading(key=key, mockup=mockup, place=place, gap=Gap.FACE, thickness_mm=self.read_mm)
        return SweepReading(
            key=key,
            mockup=mockup,
            place=place,
            clearance_mm=self.read_mm,
            crank_deg=self.crank_deg or 0.0,
            by_turning=self.method is not Method.ANGLE,
            turned_step_deg=None if self.method is Method.ANGLE else self.turned_step_deg,
            half_width_mm=self.read_half_mm,
            instrument=FEELERS if self.read_half_mm or self.used is Method.FEELERS else INDICATOR,
        )

    @property
    def used(self) -> Method:
        """How it was read: as stated, or by feelers where clay, the usual answer, cannot be meant."""
        return Method.FEELERS if self.read_half_mm and self.method is Method.CLAY else self.method

    @property
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        return Topic.VALVES

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:
        """Return its reading as a log stores it."""
        yield "read_mm", self.reading(key="", mockup=mockup)

    @property
    def job(self) -> Job:
        """Return it as a job of its own."""
        return Job(
            name="Quick check",
            unit=self.unit,
            engine=UNASKED,
            limits=READY_MADE[self.limits],
            final_gasket=self.final,
            mockups=(self.mockup,),
            readings=(self.reading(),),
            instruments=DEFAULT_INSTRUMENTS,
        )

    def supposed(self) -> tuple[str, ...]:
        """What the answer assumes because it was not stated, and what that may change."""
        more = EvaluationContext(self.job).gasket_more(self.mockup, 0)
        moved = more.value if more else 0.0
        less = abs(moved) * (1 - math.cos(math.radians(UNSTATED_DEG)))
        angle = f"; at {UNSTATED_DEG:g}° the gasket would count {bench_text(less, self.unit)} less" if moved else ""
        words = [f"The valve is upright{angle}."]
        if self.used is not self.method:
            words.append("Read with feelers, the smallest found by turning.")
        if self.under is Under.UNKNOWN:
            span = f"{format_bench(THINNEST_USUAL_MM, self.unit)} to {bench_text(THICKEST_USUAL_MM, self.unit)}"
            words.append(f"Both gaskets anywhere from {span}: the figure is as mocked up.")
        if self.under is Under.SNUGGED and self.stood_mm is None:
            words.append(f"The gasket {self._squeezed} thinner once torqued.")
        if self.under not in (Under.FINAL, Under.SNUGGED):
            words.append("The head only snugged while it was read, not torqued.")
        words.append("No lash left in, and cam, rockers and pistons as they will run.")
        return tuple(words)
