"""Finding TDC halfway between two wheel readings at the same piston height.

Source: symmetry of the slider-crank about its TDC; the offset's correction e P / (h (h - P)) from its geometry
(docs/how-it-computes.md, "TDC").
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.motion.slider_crank import SliderCrank
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import mm_range
from mockup.quantity.value import Value, mean_of_repeats, rectangular, resolution_u
from mockup.readings.instruments import INDICATOR, Instrument
from mockup.readings.kinds import reading_kind
from mockup.readings.record import Reading, standing

WHEEL_STEP_DEG = 0.5
"""A wheel marked in degrees is read to half a degree: common practice, no source."""
FURTHEST_DEG = 120.0


class TdcMethod(StrEnum):
    """How the same piston height was found on both sides."""

    STOP = "stop"
    DROP = "drop"


@reading_kind(
    name="tdc",
    of_the_block=True,
    listed="tdc",
    words="TDC",
    station=Station.TDC,
    of=lambda _: None,
    reads=lambda _: None,
)
@dataclass(frozen=True, slots=True, kw_only=True)
class TdcReading(Reading):
    """One pair of wheel readings at one piston height.

    ``before_deg`` read before TDC and ``after_deg`` after it [deg], each 1 to 120. ``drop_mm``: how far down the piston
    was [mm], if known; required with an indicator, the ``instrument``. ``wheel_known_to_deg``: accuracy of the wheel
    reading, +- [deg], 0 for a quarter of a degree. Raises FaultsError.
    """

    before_deg: float
    after_deg: float
    method: TdcMethod = TdcMethod.STOP
    drop_mm: Mm | None = None
    instrument: Name = INDICATOR
    wheel_known_to_deg: float = 0.0

    def __post_init__(self) -> None:
        found = [
            Fault(name, f"A wheel reading of 1 to {FURTHEST_DEG:.0f} degrees.")
            for name in ("before_deg", "after_deg")
            if not 1 <= getattr(self, name) <= FURTHEST_DEG
        ]
        if self.method is TdcMethod.DROP and not self.drop_mm:
            found.append(Fault("drop_mm", "Say how far the piston was down on the indicator."))
        if self.drop_mm is not None and not 0 <= self.drop_mm <= 200:
            found.append(Fault("drop_mm", f"A drop of {mm_range(0, 200)}."))
        if not 0 <= self.wheel_known_to_deg <= 5:
            found.append(Fault("wheel_known_to_deg", "A wheel read to within 0 to 5 degrees."))
        refuse(found)


@dataclass(frozen=True, slots=True)
class TdcFigure:
    """The result of all pairs.

    ``error_deg``: the wheel's reading at true TDC [deg], positive where it reads late; true = reading - error.
    ``set_to_deg``: what to set the wheel to with the piston still at the last height after TDC [deg].
    """

    error_deg: Value
    set_to_deg: float
    readings: tuple[TdcReading, ...]


def tdc_figure(
    readings: Iterable[TdcReading], crank: SliderCrank, instruments: Mapping[str, Instrument]
) -> TdcFigure | None:
    """Return the wheel's error from all standing pairs, or None.

    One pair: u = sqrt(u_wheel^2 + (u_indicator / P')^2) / sqrt 2, the second term 0 on a stop. Repeats add the standard
    deviation of their mean.
    """
    found = standing(readings)
    if not found:
        return None
    single = max(_pair_u_deg(reading, crank, instruments) for reading in found)
    error = mean_of_repeats([_error_deg(reading, crank) for reading in found], single)
    return TdcFigure(error, found[-1].after_deg - error.value, tuple(found))


def _error_deg(reading: TdcReading, crank: SliderCrank) -> float:
    middle = (reading.before_deg + reading.after_deg) / 2
    drop, height = reading.drop_mm or float(crank.travel_mm(middle)), crank.tdc_height_mm
    if drop >= height:
        drop = 0.0
    skew = math.degrees(crank.offset_mm * drop / (height * (height - drop)))
    return (reading.after_deg - reading.before_deg) / 2 + skew


def _pair_u_deg(reading: TdcReading, crank: SliderCrank, instruments: Mapping[str, Instrument]) -> float:
    wheel = rectangular(reading.wheel_known_to_deg) if reading.wheel_known_to_deg else resolution_u(WHEEL_STEP_DEG)
    if reading.method is TdcMethod.STOP:
        return wheel / math.sqrt(2)
    slope = crank.slope_mm_per_deg((reading.before_deg + reading.after_deg) / 2)
    return math.hypot(wheel, resolution_u(instruments[reading.instrument].resolution_mm) / slope) / math.sqrt(2)


def companion(firing_order: tuple[int, ...], cylinder: int) -> int | None:
    """Return the cylinder at overlap TDC while ``cylinder`` is at firing TDC, or None.

    In an even-firing engine a full crank turn is half of the firing order away.
    """
    if cylinder not in firing_order or len(firing_order) % 2:
        return None
    return firing_order[(firing_order.index(cylinder) + len(firing_order) // 2) % len(firing_order)]
