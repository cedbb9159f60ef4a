"""Clearances of one valve at angles about overlap TDC, and the drop with both valves shut.

For a dial on the retainer's flat, tilted b to the valve: true = reading x cos b, u = reading sin b u_b.
"""

import math
from dataclasses import dataclass

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Affected
from mockup.changes.crown import CROWN_MILLED
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, LASH_CHANGED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.changes.valves import VALVES_CHANGED, VALVES_SUNK
from mockup.engine.valves import Place
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import mm_range
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.quantity.typed_gap import STEP_TOO_WIDE, format_gap, parse_gap, split_before_gap
from mockup.quantity.value import MM_PER_INCH, Unit, Value, rectangular
from mockup.readings.instruments import INDICATOR, Instrument
from mockup.readings.kinds import reading_kind
from mockup.readings.record import Reading

FURTHEST_DEG = 90.0
LARGEST_MM = 40.0
SURPRISING_MM = 0.9 * MM_PER_INCH
TILT_U_DEG = 3.0
"""Accuracy of judging a dial's tilt by eye: common practice, no source."""


DROP = Affected(
    "drop",
    order=25,
    takes=affected.FACE.takes,
    moved_by={
        kind: kind.touches[affected.FACE]
        for kind in (
            DECK_CUT,
            HEAD_CUT,
            PISTONS_CHANGED,
            RELIEF_DEEPENED,
            CROWN_MILLED,
            VALVES_CHANGED,
            VALVES_SUNK,
        )
    },
    left_by=(
        GASKET_CHANGED,
        SHIMS_CHANGED,
        RELIEF_WIDENED,
        CAMSHAFT_CHANGED,
        CAM_MOVED,
        ROCKERS_CHANGED,
        LASH_CHANGED,
        PUSHRODS_CHANGED,
    ),
)
"""How far the closed valve could be pushed at TDC. What moves the face moves it too, except through the lobe."""


def _echo(asked: Asked) -> str:
    words, gap = split_before_gap(asked.text)
    # Within a quarter turn of TDC, neither BDC can be meant.
    angle = format_crank_angle(parse_crank_angle(words, 180.0))
    return f"{angle}: {format_gap(parse_gap(gap, asked.unit), asked.unit)}"


def _written(reading: "SweepReading", typed: str, _unit: Unit) -> str:
    if reading.by_turning:
        return f"smallest by turning {typed}"
    return f"{'the drop' if reading.drop else format_crank_angle(reading.crank_deg)} {typed}"


@reading_kind(
    name="sweep",
    listed="sweeps",
    words="indicator",
    station=Station.SWEEP,
    # The drop belongs to the engine and not to its cam, so another cam leaves it valid.
    of=lambda reading: (reading.place, reading.drop),
    reads=lambda reading: DROP if reading.drop else affected.FACE,
    what=_written,
    echo={"sweep": _echo},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class SweepReading(Reading):
    """One clearance along the valve, as read, at one crank angle in ``mockup``.

    ``crank_deg`` about overlap TDC [deg], -90 to 90. ``drop``: read at firing TDC with both valves shut; its angle does
    not count. ``by_turning``: the smallest found by turning the crank by hand, at an unread angle. ``turned_step_deg``:
    the steps of that turning [deg], 0 to 30, 0 for past the smallest and back, None where not stated. ``clearance_mm``
    [mm], 0 to 40. ``half_width_mm``: for feelers, half the step between the thickest that goes and the thinnest that
    does not [mm]. ``tilt_deg``: of the dial to the valve [deg], 0 to 40. ``drift_mm``: how far the dial's zero had
    moved when checked again [mm]. ``wheel_set``: the wheel had been corrected. Raises FaultsError.
    """

    mockup: Name
    place: Place
    crank_deg: float = 0.0
    clearance_mm: Mm
    half_width_mm: Mm = 0.0
    drop: bool = False
    by_turning: bool = False
    turned_step_deg: float | None = None
    instrument: Name = INDICATOR
    tilt_deg: float = 0.0
    drift_mm: Mm = 0.0
    wheel_set: bool = True

    def __post_init__(self) -> None:
        found = []
        if not -FURTHEST_DEG <= self.crank_deg <= FURTHEST_DEG:
            found.append(Fault("crank_deg", "Within 90 degrees of overlap TDC: no valve is near its piston beyond."))
        if self.drop and self.by_turning:
            found.append(
                Fault("by_turning", "The drop is read with both valves shut, so it cannot be found by turning.")
            )
        if self.turned_step_deg is not None and not 0 <= self.turned_step_deg <= 30:
            found.append(Fault("turned_step_deg", "Steps of 0 to 30 degrees; 0 for past the smallest and back."))
        if not 0 <= self.clearance_mm <= LARGEST_MM:
            found.append(Fault("clearance_mm", f"A clearance of {mm_range(0, 40)}. Is the unit right?"))
        if not 0 <= self.half_width_mm <= 1:
            found.append(Fault("half_width_mm", STEP_TOO_WIDE))
        if not 0 <= self.tilt_deg <= 40:
            found.append(Fault("tilt_deg", "A tilt of 0 to 40 degrees."))
        if not 0 <= self.drift_mm <= 1:
            found.append(Fault("drift_mm", f"A drift of {mm_range(0, 1)}."))
        refuse(found)

    @property
    def surprising(self) -> bool:
        """Whether it is possible, but so large that the figure is asked about."""
        return self.clearance_mm > SURPRISING_MM

    def along_valve(self, instrument: Instrument) -> Value:
        """Return the clearance along the valve [mm], corrected for tilt; u is its noise alone."""
        along = self.clearance_mm * math.cos(math.radians(self.tilt_deg))
        noise_mm = instrument.noise_mm
        if self.half_width_mm:
            noise_mm = math.hypot(rectangular(self.half_width_mm), instrument.repeats_mm)
        return Value(along, max(noise_mm, 1e-4))

    @property
    def tilt_u_mm(self) -> float:
        """Standard uncertainty of judging the dial's tilt by eye [mm], common to a setup."""
        return self.clearance_mm * math.sin(math.radians(self.tilt_deg)) * math.radians(TILT_U_DEG)
