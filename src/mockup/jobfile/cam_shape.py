"""The shape of the cam and the pushrods in a job file."""

from typing import Annotated

from pydantic import Field

from mockup.engine.cam import (
    MOST_POINTS,
    CamCard,
    Duration,
    Events,
    LiftAt,
    LobeCard,
    LobeTable,
    TableZero,
)
from mockup.engine.valves import Side
from mockup.jobfile.lengths import LengthMm
from mockup.jobfile.parts import Finite, Shape
from mockup.jobfile.reading_shape import Placed, Read
from mockup.readings.cam_timing import DegreeReading, LiftReading
from mockup.readings.pushrods import USUAL_PITCH_MM, Lifter, PushrodChoice, PushrodReading, WipeReading


class DurationShape(Shape):
    """Crank degrees above a checking lift at the lobe."""

    CORE = Duration
    deg: Finite
    at: LengthMm


class LobeCardShape(Shape):
    """One lobe by its card."""

    CORE = LobeCard
    lift: LengthMm
    durations: Annotated[list[DurationShape], Field(max_length=3)]
    tdc_lift: LengthMm | None = None


class EventsShape(Shape):
    """Valve events, signed crank degrees about overlap TDC, at one checking lift at the lobe."""

    CORE = Events
    at: LengthMm
    intake_opens_deg: Finite
    intake_closes_deg: Finite
    exhaust_opens_deg: Finite
    exhaust_closes_deg: Finite


class CamCardShape(Shape):
    """A cam by its card: intake centreline in crank degrees ATDC, lobe separation in cam degrees."""

    CORE = CamCard
    intake: LobeCardShape
    exhaust: LobeCardShape
    icl_deg: Finite
    lsa_deg: Finite
    intake_lash: LengthMm = 0.0
    exhaust_lash: LengthMm = 0.0
    two_cams: bool = False
    events: EventsShape | None = None


class LobeTableShape(Shape):
    """One lobe as measured: crank degrees, rising, and lifts."""

    CORE = LobeTable
    side: Side
    angles_deg: Annotated[list[Finite], Field(max_length=MOST_POINTS)]
    lifts: Annotated[list[LengthMm], Field(max_length=MOST_POINTS)]
    at: LiftAt = LiftAt.LOBE
    zero: TableZero = TableZero.CENTRELINE
    u: LengthMm = 0.01


class PushrodChoiceShape(Shape):
    """What the pushrods are chosen by."""

    CORE = PushrodChoice
    lifter: Lifter = Lifter.HYDRAULIC
    low: LengthMm
    high: LengthMm
    aim: LengthMm
    step: LengthMm = USUAL_PITCH_MM
    lean_deg: Finite = 0.0
    chosen: LengthMm | None = None


class DegreeShape(Read):
    """Wheel angles at equal lift either side of a nose, signed about overlap TDC."""

    CORE = DegreeReading
    side: Side
    lift: LengthMm
    opening_deg: Finite
    closing_deg: Finite
    wheel_set: bool = True


class LiftShape(Placed):
    """The most one valve was seen to lift."""

    CORE = LiftReading
    lift: LengthMm


class PushrodShape(Placed):
    """One trial of one valve's pushrod."""

    CORE = PushrodReading
    closed: LengthMm
    turns: Finite = 0.0
    pitch: LengthMm = USUAL_PITCH_MM


class WipeShape(Placed):
    """The wipe pattern across a valve's tip."""

    CORE = WipeReading
    start: LengthMm
    end: LengthMm
    tip: LengthMm
    square: bool | None = None
