"""Degreeing the cam: wheel angles at equal lift, and lifts measured at the valve.

Source: symmetry. A centreline is the mean of the two angles minus the wheel's error. Several lifts give several means,
whose spread shows how asymmetric the lobe is.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Change
from mockup.changes.since import advanced_since
from mockup.changes.train import CAM_MOVED
from mockup.engine.block import Engine
from mockup.engine.cam import HIGHEST_LOBE_MM
from mockup.engine.valves import Place, Side
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import mm_text
from mockup.quantity.value import Value, mean_of_repeats, resolution_u
from mockup.readings.kinds import of_the_newest_engine, reading_kind
from mockup.readings.record import Reading, standing
from mockup.readings.tdc import WHEEL_STEP_DEG

PLACED_U_DEG = resolution_u(WHEEL_STEP_DEG)


@reading_kind(
    name="degree",
    listed="degrees",
    words="cam degreed",
    station=Station.CAM,
    of=lambda reading: reading.side,
    reads=lambda _: affected.CAM,
)
@dataclass(frozen=True, slots=True, kw_only=True)
class DegreeReading(Reading):
    """Wheel angles at one lift, rising and falling, about overlap TDC [deg], -360 to 360.

    ``lift_mm``: the lift at which both were read [mm], at the lobe or follower. ``wheel_set``: the wheel had been
    corrected after TDC was found. Raises FaultsError.
    """

    side: Side
    lift_mm: Mm
    opening_deg: float
    closing_deg: float
    wheel_set: bool = True

    def __post_init__(self) -> None:
        found = []
        if not 0 < self.lift_mm <= HIGHEST_LOBE_MM:
            found.append(Fault("lift_mm", f"A lift above zero, up to {mm_text(30)}."))
        if not -360 <= self.opening_deg < self.closing_deg <= 360:
            found.append(Fault("closing_deg", "The falling side comes after the rising one, within a turn of TDC."))
        middle = (self.opening_deg + self.closing_deg) / 2
        if not found and not 40 <= (middle if self.side is Side.INTAKE else -middle) <= 180:
            found.append(
                Fault(
                    "closing_deg",
                    f"Their middle is at {abs(middle):.0f}° {'ATDC' if middle > 0 else 'BTDC'}: an intake’s is 40 to "
                    "180 ATDC, an exhaust’s as much BTDC. Which TDC was it, and which valve?",
                )
            )
        refuse(found)


@dataclass(frozen=True, slots=True)
class CentrelineFigure:
    """A side's centreline as measured about overlap TDC, without the wheel's error [deg].

    ``spread_deg``: between the middles at several lifts [deg], how asymmetric the lobe is; None at one lift.
    ``moved_deg``: how far the cam was advanced since, included [deg].
    """

    centreline_deg: Value
    spread_deg: float | None
    readings: tuple[DegreeReading, ...]
    moved_deg: float = 0.0


def centrelines(
    readings: Iterable[DegreeReading], wheel_error_deg: Value | None, engine: Engine, changes: Sequence[Change] = ()
) -> dict[Side, CentrelineFigure]:
    """Return the centreline of each degreed side, moved with the cam where it was moved since.

    True = read - wheel error. Nothing is subtracted from readings taken after the wheel was corrected. Where TDC was
    not found the wheel's error is 0 +- 0.5 degrees.
    """
    done = [change for change in changes if change.kind is CAM_MOVED and change.order is not None]
    wheel = wheel_error_deg or Value(0.0, 0.5)
    found = {}
    alive = of_the_newest_engine(readings, engine, changes)
    for side in Side:
        mine = [reading for reading in alive if reading.side is side]
        if mine:
            found[side] = _figure(mine, wheel, advanced_since(done, mine[0].after, side))
    return found


def _figure(readings: Sequence[DegreeReading], wheel: Value, moved_deg: float) -> CentrelineFigure:
    middles = [(r.opening_deg + r.closing_deg) / 2 - (0.0 if r.wheel_set else wheel.value) for r in readings]
    mean = mean_of_repeats(middles, math.hypot(PLACED_U_DEG / math.sqrt(2), wheel.u))
    spread = max(middles) - min(middles) if len(middles) > 1 else None
    return CentrelineFigure(mean + Value(-moved_deg), spread, tuple(readings), moved_deg)


@reading_kind(
    name="lift",
    listed="lifts",
    words="lift at the valve",
    station=Station.CAM,
    of=lambda reading: (reading.place, reading.mockup),
    reads=lambda _: None,
)
@dataclass(frozen=True, slots=True, kw_only=True)
class LiftReading(Reading):
    """The maximum lift of one valve [mm], 0 to 60, in the mock-up ``mockup``."""

    mockup: Name
    place: Place
    lift_mm: Mm

    def __post_init__(self) -> None:
        refuse([] if 0 < self.lift_mm <= 60 else [Fault("lift_mm", f"A valve lift above zero, up to {mm_text(60)}.")])


def newest_lifts(readings: Iterable[LiftReading]) -> Mapping[tuple[Place, str], LiftReading]:
    """Return the newest standing reading of each valve in each mock-up."""
    return {(reading.place, reading.mockup): reading for reading in standing(readings)}
