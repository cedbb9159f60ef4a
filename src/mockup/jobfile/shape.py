"""The shape of a job file, version 1: what may stand in it, field by field. Makes the JSON Schema too."""

from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator
from pydantic_core import PydanticCustomError

from mockup.checks.margins import Edit, LimitName, MarginSheet
from mockup.checks.sheets import READY_MADE
from mockup.engine.block import DIMENSION_RANGES_MM, MOST_CYLINDERS, Engine, Layout, Numbering, dimension_message
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import Bolts, Clay, LashAt, Lifters, MockUp, Springs
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.faults import Fault, FaultsError
from mockup.jobfile.lengths import DeckMm, LengthMm
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.clay import ClayReading, Gap, Place
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import BRIDGE, CALIPER, Instrument
from mockup.readings.record import Record
from mockup.readings.volumes import Known, Part, VolumeReading

FORMAT = "astute-mole/job"
VERSION = 1

MOST_READINGS = 5000
Finite = Annotated[float, Field(allow_inf_nan=False)]
Whole = Annotated[int, Field(strict=True)]
Words = Annotated[str, Field(max_length=200)]
Name = Annotated[str, Field(min_length=1, max_length=80)]


class Shape(BaseModel):
    """One part of the file: refuses fields it does not know, and values the core refuses."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    def core(self) -> Any:
        """The part as the core's own data, where the part alone makes one. Raises FaultsError."""
        return None

    @model_validator(mode="after")
    def _the_core_takes_it(self) -> Self:
        try:
            self.core()
        except FaultsError as error:
            raise PydanticCustomError("core", "refused", {"faults": error.faults}) from error
        return self


class ValveRowShape(Shape):
    """Valves of one side."""

    count: Whole = 1
    angle_deg: Finite = 0.0
    cant_deg: Finite = 0.0
    relief: Relief = Relief.PARALLEL

    def core(self) -> ValveRow:
        """The row; its ranges are checked with the engine's."""
        return ValveRow(count=self.count, angle_deg=self.angle_deg, cant_deg=self.cant_deg, relief=self.relief)


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

    layout: Layout = Layout.INLINE
    numbering: Numbering = Numbering.ALTERNATE
    cylinders: Annotated[Whole, Field(ge=1, le=MOST_CYLINDERS)]
    bore: Annotated[LengthMm, _within("bore_mm")]
    stroke: Annotated[LengthMm, _within("stroke_mm")]
    rod_length: Annotated[LengthMm, _within("rod_length_mm")]
    pin_offset: Annotated[LengthMm, _within("pin_offset_mm")] = 0.0
    rocker_ratio: Finite = 1.0
    intake: ValveRowShape = ValveRowShape()
    exhaust: ValveRowShape = ValveRowShape()

    def core(self) -> Engine:
        """The engine."""
        return Engine(
            layout=self.layout,
            numbering=self.numbering,
            cylinders=self.cylinders,
            bore_mm=self.bore,
            stroke_mm=self.stroke,
            rod_length_mm=self.rod_length,
            pin_offset_mm=self.pin_offset,
            rocker_ratio=self.rocker_ratio,
            intake=self.intake.core(),
            exhaust=self.exhaust.core(),
        )


class LengthEdit(Shape):
    """One clearance limit changed for this build; null takes the limit away."""

    limit: Literal[
        LimitName.FACE_INTAKE, LimitName.FACE_EXHAUST, LimitName.RADIAL, LimitName.QUENCH_LOW, LimitName.QUENCH_HIGH
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
    edits: list[Annotated[LengthEdit | RatioEdit, Field(discriminator="limit")]] = []

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

    name: Annotated[str, Field(max_length=60)] = ""
    compressed: LengthMm
    bore: LengthMm

    def core(self) -> FinalGasket:
        """The gasket."""
        return FinalGasket(name=self.name, compressed_mm=self.compressed, bore_mm=self.bore)


class MockUpShape(Shape):
    """One set of conditions; clay readings name it by its key."""

    key: Name
    gasket_state: GasketState
    gasket: LengthMm = 0.0
    bolts: Bolts = Bolts.SNUGGED
    lifters: Lifters = Lifters.BLOCKED
    springs: Springs = Springs.CHECKING
    lash: LengthMm = 0.0
    lash_at: LashAt = LashAt.VALVE
    clay: Clay = Clay.MODELLING
    two_turns: bool = True

    def core(self) -> MockUp:
        """The mock-up."""
        kept = {name: getattr(self, name) for name in type(self).model_fields if name not in ("gasket", "lash")}
        return MockUp(gasket_mm=self.gasket, lash_mm=self.lash, **kept)


class RecordShape(Shape):
    """Bookkeeping of a reading; never computed with, except that a struck-out reading does not count."""

    typed: Words = ""
    by: Words = ""
    at: Words = ""
    struck: Words = ""

    def core(self) -> Record:
        """The record."""
        return Record(**dict(self))


class Read(Shape):
    """What every reading in the file has."""

    key: Annotated[str, Field(max_length=40)] = ""
    record: RecordShape = RecordShape()


class DeckShape(Read):
    """One deck reading; a number is positive in the hole."""

    cylinder: Whole
    clearance: DeckMm
    instrument: Name = BRIDGE

    def core(self) -> DeckReading:
        """The reading."""
        return DeckReading(
            key=self.key,
            record=self.record.core(),
            cylinder=self.cylinder,
            clearance_mm=self.clearance,
            instrument=self.instrument,
        )


class ClayShape(Read):
    """One thickness of clay."""

    mockup: Name
    cylinder: Whole
    side: Side
    valve: Whole = 1
    gap: Gap = Gap.FACE
    thickness: LengthMm
    instrument: Name = CALIPER

    def core(self) -> ClayReading:
        """The reading."""
        return ClayReading(
            key=self.key,
            record=self.record.core(),
            mockup=self.mockup,
            place=Place(self.cylinder, self.side, self.valve),
            gap=self.gap,
            thickness_mm=self.thickness,
            instrument=self.instrument,
        )


class VolumeShape(Read):
    """One volume in cm3; a piston's is positive where it adds room. No cylinder: it holds for all."""

    part: Part
    cc: Finite
    cylinder: Whole | None = None
    known: Known = Known.MEASURED

    def core(self) -> VolumeReading:
        """The reading."""
        return VolumeReading(
            key=self.key,
            record=self.record.core(),
            part=self.part,
            cc=self.cc,
            cylinder=self.cylinder,
            known=self.known,
        )


class InstrumentShape(Shape):
    """An instrument of one's own."""

    key: Name
    name: Name
    resolution: LengthMm
    accuracy: LengthMm

    def core(self) -> Instrument:
        """The instrument."""
        return Instrument(key=self.key, name=self.name, resolution_mm=self.resolution, accuracy_mm=self.accuracy)


class JobShape(Shape):
    """A whole job file."""

    format: Literal["astute-mole/job"]
    version: Literal[1]
    unit: Unit
    deck_sign: DeckSign = DeckSign.DOWN_POSITIVE
    name: Annotated[str, Field(min_length=1, max_length=120)]
    engine: EngineShape
    margins: MarginsShape
    final_gasket: GasketShape | None = None
    mockups: list[MockUpShape] = Field(default=[], max_length=100)
    deck: list[DeckShape] = Field(default=[], max_length=MOST_READINGS)
    clay: list[ClayShape] = Field(default=[], max_length=MOST_READINGS)
    volumes: list[VolumeShape] = Field(default=[], max_length=MOST_READINGS)
    instruments: list[InstrumentShape] = Field(default=[], max_length=100)
