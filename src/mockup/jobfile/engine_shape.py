"""The shape of what an engine is made of in a job file: block, valves, gasket, shims, changes, mock-ups, margins."""

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from mockup.checks.margins import Edit, LimitName, MarginSheet
from mockup.checks.sheets import READY_MADE
from mockup.engine.block import DIMENSION_RANGES_MM, MOST_CYLINDERS, Engine, Layout, Numbering, dimension_message
from mockup.engine.changes import Change, ChangeKind
from mockup.engine.gasket import BaseShims, FinalGasket, GasketState
from mockup.engine.mockup import Bolts, Clay, Fasteners, LashAt, Lifters, MockUp, PistonsIn, Springs
from mockup.engine.running import Material, Running
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.faults import Fault, FaultsError
from mockup.jobfile.lengths import ChangeAmount, LengthMm
from mockup.jobfile.parts import Finite, Name, Shape, Whole, Words
from mockup.readings.instruments import REPEATS_MM, Instrument


class ValveRowShape(Shape):
    """Valves of one side; their ranges are checked with the engine's."""

    CORE = ValveRow
    count: Whole = 1
    angle_deg: Finite = 0.0
    cant_deg: Finite = 0.0
    relief: Relief = Relief.PARALLEL
    diameter: LengthMm = 0.0


def _within(name: str) -> AfterValidator:
    """A range checked on its own, so that one bad field does not hide the next."""
    low, high = DIMENSION_RANGES_MM[name]

    def check(value: float) -> float:
        if not low <= value <= high:
            raise ValueError(dimension_message(name))
        return value

    return AfterValidator(check)


class EngineShape(Shape):
    """The engine as designed."""

    CORE = Engine
    layout: Layout = Layout.INLINE
    numbering: Numbering = Numbering.ALTERNATE
    cylinders: Annotated[Whole, Field(ge=1, le=MOST_CYLINDERS)]
    bore: Annotated[LengthMm, _within("bore_mm")]
    stroke: Annotated[LengthMm, _within("stroke_mm")]
    rod_length: Annotated[LengthMm, _within("rod_length_mm")]
    pin_offset: Annotated[LengthMm, _within("pin_offset_mm")] = 0.0
    rocker_ratio: Finite = 1.0
    firing_order: Annotated[list[Whole], Field(default=[], max_length=MOST_CYLINDERS)]
    bore_spacing: LengthMm = 0.0
    separate_barrels: bool = False
    intake: ValveRowShape = ValveRowShape()
    exhaust: ValveRowShape = ValveRowShape()
    pistons_reversed: bool = False
    bore_known_to: LengthMm = 0.0
    stroke_known_to: LengthMm = 0.0
    rod_length_known_to: LengthMm = 0.0


class LengthEdit(Shape):
    """One clearance limit changed for this build; null takes the limit away."""

    limit: Literal[
        LimitName.FACE_INTAKE,
        LimitName.FACE_EXHAUST,
        LimitName.RADIAL,
        LimitName.CROWN,
        LimitName.QUENCH_LOW,
        LimitName.QUENCH_HIGH,
    ]
    value: LengthMm | None
    reason: Words = ""


class RatioEdit(Shape):
    """One compression ratio limit changed for this build; null takes the limit away."""

    limit: Literal[LimitName.RATIO_LOW, LimitName.RATIO_HIGH]
    value: Finite | None
    reason: Words = ""


class MarginsShape(Shape):
    """Which margin sheet, and this build's edits of it."""

    sheet: Name
    edits: list[Annotated[LengthEdit | RatioEdit, Field(discriminator="limit")]] = Field(default=[])

    def core(self) -> MarginSheet:
        """The sheet with this build's edits."""
        if self.sheet not in READY_MADE:
            raise FaultsError(
                [Fault("sheet", f"No margin sheet is called {self.sheet}. There are: {', '.join(READY_MADE)}.")]
            )
        edits = {edit.limit: Edit(edit.value, edit.reason) for edit in self.edits}
        return READY_MADE[self.sheet].edited(edits)


class GasketShape(Shape):
    """The gasket the engine will run with."""

    CORE = FinalGasket
    name: Annotated[str, Field(max_length=60)] = ""
    compressed: LengthMm
    bore: LengthMm
    known_to: LengthMm = 0.0


class ShimsShape(Shape):
    """The base shims a separate barrel will run on; no cylinder: they hold for every barrel without its own."""

    CORE = BaseShims
    total: LengthMm
    words: Words = ""
    cylinder: Whole | None = None


class ChangeShape(Shape):
    """Something changed on the engine: done as the order-th change, or only decided where order is null.

    ``amount`` of what is alike at every bore: degrees of cam, ratio of rockers, cm3 of pistons, lengths of the others.
    """

    CORE = Change
    key: Name
    kind: ChangeKind
    order: Annotated[Whole, Field(ge=1)] | None = None
    bank: Whole | None = None
    front: LengthMm = 0.0
    rear: LengthMm = 0.0
    side: Side | None = None
    amount: ChangeAmount = 0.0
    gasket: GasketShape | None = None


class RunningShape(Shape):
    """The engine hot and turning: kelvin, rpm, grams and square millimetres as the names say."""

    CORE = Running
    compression_height: LengthMm
    block: Material = Material.IRON
    rod: Material = Material.STEEL
    piston: Material = Material.ALLOY_4032
    block_rise_k: Finite = 65.0
    crank_rise_k: Finite = 70.0
    rod_rise_k: Finite = 80.0
    piston_rise_k: Finite = 150.0
    rpm: Finite = 6000.0
    reciprocating_g: Finite = 800.0
    rod_area_mm2: Finite = 150.0
    bearings: LengthMm = 0.0


class MockUpShape(Shape):
    """One set of conditions; clay readings name it by its key."""

    CORE = MockUp
    key: Name
    gasket_state: GasketState
    gasket: LengthMm = 0.0
    bolts: Bolts = Bolts.SNUGGED
    lifters: Lifters = Lifters.BLOCKED
    springs: Springs = Springs.CHECKING
    lash: LengthMm = 0.0
    lash_at: LashAt = LashAt.VALVE
    shims: LengthMm = 0.0
    clay: Clay = Clay.MODELLING
    two_turns: bool = True
    lash_exhaust: LengthMm | None = None
    head: Words = ""
    blocked_how: Words = ""
    fasteners: Fasteners = Fasteners.OLD
    rocker_ratio: Finite | None = None
    caps_as_run: bool = True
    cam_advance_deg: Finite = 0.0
    wheel_checked: bool = False
    gasket_known_to: LengthMm = 0.0
    pistons: PistonsIn = PistonsIn.UNKNOWN


class InstrumentShape(Shape):
    """An instrument of one's own."""

    CORE = Instrument
    key: Name
    name: Name
    resolution: LengthMm
    accuracy: LengthMm
    repeats: LengthMm = REPEATS_MM
