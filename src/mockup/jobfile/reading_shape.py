"""The shape of readings in a job file."""

from typing import Annotated, Any

from pydantic import Field

from mockup.checks.judge import State
from mockup.checks.sign_off import SignOff
from mockup.engine.valves import Side
from mockup.jobfile.lengths import DeckMm, LengthMm
from mockup.jobfile.parts import Finite, Name, Shape, Whole, Words
from mockup.readings.clay import ClayReading, Gap, HeadReading, Place
from mockup.readings.clay import Spot as HeadSpot
from mockup.readings.deck import DeckReading, Pushed, Spot
from mockup.readings.instruments import BRIDGE, CALIPER, INDICATOR
from mockup.readings.record import Record
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcMethod, TdcReading
from mockup.readings.volumes import Known, Part, VolumeReading


class RecordShape(Shape):
    """Bookkeeping of a reading; never computed with, except that a struck-out reading does not count."""

    CORE = Record
    typed: Words = ""
    by: Words = ""
    at: Words = ""
    struck: Words = ""


class Read(Shape):
    """What every reading in the file has; ``after`` is the order of the last change before it was taken."""

    key: Annotated[str, Field(max_length=40)] = ""
    after: Annotated[Whole, Field(ge=0)] = 0
    record: RecordShape = RecordShape()


class TdcShape(Read):
    """One pair of wheel readings at the same piston height, in degrees before and after."""

    CORE = TdcReading
    before_deg: Finite
    after_deg: Finite
    method: TdcMethod = TdcMethod.STOP
    drop: LengthMm | None = None
    instrument: Name = INDICATOR
    wheel_known_to_deg: Finite = 0.0


class DeckShape(Read):
    """One deck reading; a number is positive in the hole."""

    CORE = DeckReading
    cylinder: Whole
    clearance: DeckMm
    instrument: Name = BRIDGE
    spot: Spot = Spot.CENTRE
    pushed: Pushed = Pushed.LEVEL
    half_width: LengthMm = 0.0
    crank_held: bool = True
    shims: LengthMm = 0.0


class Placed(Read):
    """A reading of one valve in one mock-up: cylinder, side and valve together are its place."""

    mockup: Name
    cylinder: Whole
    side: Side
    valve: Whole = 1

    def kept(self) -> dict[str, Any]:
        """The fields as the core calls them."""
        kept = super().kept()
        for name in ("cylinder", "side", "valve"):
            kept.pop(name, None)
            kept.pop(f"{name}_mm", None)
        return {**kept, "place": Place(self.cylinder, self.side, self.valve)}


class ClayShape(Placed):
    """One thickness of clay."""

    CORE = ClayReading
    gap: Gap = Gap.FACE
    thickness: LengthMm
    instrument: Name = CALIPER
    touched: bool = True
    spot: Words = ""


class HeadShape(Read):
    """One thickness of clay between crown and head: at a quench pad, the plug or the dome."""

    CORE = HeadReading
    mockup: Name
    cylinder: Whole
    spot: HeadSpot
    thickness: LengthMm
    instrument: Name = CALIPER
    touched: bool = True


class SweepShape(Placed):
    """One clearance along the valve's axis at one crank angle about overlap TDC, or the drop at firing TDC."""

    CORE = SweepReading
    crank_deg: Finite = 0.0
    clearance: LengthMm
    drop: bool = False
    by_turning: bool = False
    instrument: Name = INDICATOR
    tilt_deg: Finite = 0.0
    drift: LengthMm = 0.0
    wheel_set: bool = True


class VolumeShape(Read):
    """One volume in cm3; a piston's is positive where it adds room. No cylinder: it holds for all.

    With a depth it is the fluid under a plate over a piston that far down its bore.
    """

    CORE = VolumeReading
    part: Part
    cc: Finite
    cylinder: Whole | None = None
    known: Known = Known.MEASURED
    depth: LengthMm = 0.0
    known_to_cc: Finite = 0.0


class SignOffShape(Shape):
    """A check, by its label, that somebody answers for though not clear; its daylight then, in mm or of a ratio."""

    CORE = SignOff
    key: Annotated[str, Field(max_length=40)] = ""
    check: Name
    state: State
    daylight: Finite | None = None
    reason: Words
    record: RecordShape = RecordShape()
