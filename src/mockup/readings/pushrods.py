"""Pushrods: the length without play or preload, the wipe pattern, the base circle.

zero-lash length = closed length of the checker + turns x pitch, or measured with a caliper (common practice).
"""

import math
from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes import affected
from mockup.engine.pushrods import LENGTHS_MM, USUAL_PITCH_MM
from mockup.engine.valves import Place
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import format_bench, format_both, mm_range
from mockup.quantity.typed_train import parse_pushrod, parse_wipe
from mockup.quantity.value import MM_PER_INCH, rectangular
from mockup.readings.kinds import reading_kind
from mockup.readings.record import Reading

TURN_U = rectangular(0.1)
"""Turns of a checker are counted to a tenth: common practice, no source."""
CALIPER_U_MM = rectangular(0.002 * MM_PER_INCH)


def _echo_trial(asked: Asked) -> str:
    typed = parse_pushrod(asked.text, asked.unit, asked.checker)
    return format_both(typed.closed_mm + typed.turns * typed.pitch_mm, asked.unit)


@reading_kind(
    name="pushrod",
    listed="pushrods",
    words="pushrod tried",
    station=Station.PUSHRODS,
    of=lambda reading: reading.place,
    reads=lambda _: affected.PUSHROD,
    echo={"pushrod": _echo_trial},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class PushrodReading(Reading):
    """One trial of one valve in ``mockup``: ``closed_mm`` + ``turns`` x ``pitch_mm`` [mm].

    Without turns ``closed_mm`` is the whole length, measured with a caliper. Raises FaultsError.
    """

    mockup: Name
    place: Place
    closed_mm: Mm
    turns: float = 0.0
    pitch_mm: Mm = USUAL_PITCH_MM

    def __post_init__(self) -> None:
        found = []
        if not 0 <= self.turns <= 60:
            found.append(Fault("turns", "From 0 to 60 turns."))
        if not 0.2 <= self.pitch_mm <= 3:
            found.append(Fault("pitch_mm", f"A pitch of {mm_range(0.2, 3)} a turn."))
        low, high = LENGTHS_MM
        if not found and not low <= self.length_mm <= high:
            found.append(Fault("closed_mm", f"A pushrod of {mm_range(low, high)}."))
        refuse(found)

    @property
    def length_mm(self) -> float:
        """The zero-lash length of this trial [mm]."""
        return self.closed_mm + self.turns * self.pitch_mm

    @property
    def u_mm(self) -> float:
        """Standard uncertainty of this trial [mm]."""
        return math.hypot(CALIPER_U_MM, TURN_U * self.pitch_mm if self.turns else 0.0)


def _echo_wipe(asked: Asked) -> str:
    typed = parse_wipe(asked.text, asked.unit)
    wide, off = typed.end_mm - typed.start_mm, (typed.start_mm + typed.end_mm - typed.tip_mm) / 2
    return f"{format_bench(wide, asked.unit)} wide, {format_bench(abs(off), asked.unit)} off centre"


@reading_kind(
    name="wipe",
    listed="wipes",
    words="wipe pattern",
    station=Station.PUSHRODS,
    of=lambda reading: reading.place,
    reads=lambda _: None,
    echo={"wipe": _echo_wipe},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class WipeReading(Reading):
    """The wipe pattern: start and end from the tip's inner edge [mm], and tip width [mm].

    ``square``: the rocker was square to the valve at half lift; None where not checked. ``half_lift_deg``: the angle
    between them there [deg], 60 to 120, None where not measured. Raises FaultsError.
    """

    mockup: Name
    place: Place
    start_mm: Mm
    end_mm: Mm
    tip_mm: Mm
    square: bool | None = None
    half_lift_deg: float | None = None

    def __post_init__(self) -> None:
        found = []
        if not 2 <= self.tip_mm <= 20:
            found.append(Fault("tip_mm", f"A valve tip of {mm_range(2, 20)} across."))
        elif not 0 <= self.start_mm < self.end_mm <= self.tip_mm:
            found.append(Fault("end_mm", "The pattern starts and ends on the tip, in that order."))
        if self.half_lift_deg is not None and not 60 <= self.half_lift_deg <= 120:
            found.append(Fault("half_lift_deg", "Rocker to valve at half lift: 60 to 120 degrees, 90 is square."))
        refuse(found)

    @property
    def width_mm(self) -> float:
        """Width of the pattern [mm]."""
        return self.end_mm - self.start_mm

    @property
    def off_centre_mm(self) -> float:
        """Distance of its middle from the tip's middle [mm], positive outward from the pivot."""
        return (self.start_mm + self.end_mm - self.tip_mm) / 2

    @property
    def centred(self) -> bool:
        """Whether it is central to a tenth of the tip: common practice, no source."""
        return abs(self.off_centre_mm) <= self.tip_mm / 10
