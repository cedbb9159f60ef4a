"""Volumes of chambers and pistons: by burette, in several fills if needed, or stated."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Affected
from mockup.engine.block import Engine, cylinder_volume
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm
from mockup.quantity.shown import format_both, format_piston_volume, format_volume, mm_range
from mockup.quantity.typed import parse_piston, parse_volume
from mockup.quantity.value import Value, rectangular
from mockup.readings.kinds import reading_kind
from mockup.readings.record import Reading


class VolumePart(StrEnum):
    """Whose volume it is."""

    CHAMBER = "chamber"
    PISTON = "piston"


class Known(StrEnum):
    """How a volume is known."""

    MEASURED = "measured"
    STATED = "stated"


VOLUME_U_CC = {Known.MEASURED: rectangular(0.3), Known.STATED: rectangular(1.5)}
"""Half-widths of 0.3 cm3 by burette and plate, 1.5 cm3 for a catalogue figure: common practice, no source."""
DEPTH_U_MM = rectangular(0.02)
"""Accuracy of setting a piston down its bore with an indicator: common practice, no source."""

RANGES_CC = {VolumePart.CHAMBER: (0.1, 1500.0), VolumePart.PISTON: (-500.0, 500.0)}
DEEPEST_MM = 100.0


_AFFECTED: Mapping[VolumePart, Affected] = {VolumePart.CHAMBER: affected.CHAMBER, VolumePart.PISTON: affected.PISTON}


def _echo_chamber(asked: Asked) -> str:
    return f"{format_volume(parse_volume(asked.text))} cc"


def _echo_piston(asked: Asked) -> str:
    typed = parse_piston(asked.text, asked.unit)
    if typed.depth_mm:
        return f"{format_volume(typed.cc)} cc over it, {format_both(typed.depth_mm, asked.unit)} down"
    return format_piston_volume(typed.cc)


@reading_kind(
    name="volume",
    of_the_block=True,
    listed="volumes",
    words="volume",
    station=Station.VOLUMES,
    of=lambda reading: reading.part,
    reads=lambda reading: _AFFECTED[reading.part],
    echo={"chamber": _echo_chamber, "piston": _echo_piston},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class VolumeReading(Reading):
    """One volume [cm3]; a piston's is positive where it adds volume (dish), negative for a dome.

    ``depth_mm`` [mm], 0 to 100: for a piston filled under a plate, how far the crown's flat was down its bore; ``cc``
    is then the fluid filled in. ``cylinder`` None means every cylinder without a reading of its own. ``known_to_cc``:
    accuracy, +- [cm3], 0 for the usual. Raises FaultsError outside RANGES_CC.
    """

    part: VolumePart
    cc: float
    cylinder: int | None = None
    known: Known = Known.MEASURED
    depth_mm: Mm = 0.0
    known_to_cc: float = 0.0

    def __post_init__(self) -> None:
        low, high = (0.1, 3000.0) if self.depth_mm else RANGES_CC[self.part]
        found = []
        if not low <= self.cc <= high:
            found.append(Fault("cc", f"A {self.part} volume of {abs(low):g} to {high:g} cc."))
        if not 0 <= self.depth_mm <= DEEPEST_MM:
            found.append(Fault("depth_mm", f"A piston {mm_range(0, 100)} down its bore."))
        if not 0 <= self.known_to_cc <= 50:
            found.append(Fault("known_to_cc", "Known to within 0 to 50 cc."))
        refuse(found)

    def volume(self, engine: Engine) -> Value:
        """Return the part's own volume [cm3]: down its bore, fluid - pi/4 bore^2 depth."""
        own = rectangular(self.known_to_cc) if self.known_to_cc else VOLUME_U_CC[self.known]
        if not self.depth_mm:
            return Value(self.cc, own)
        bore = engine.sizes.bore_mm
        above = cylinder_volume(bore, self.depth_mm)
        parts = (own, above * 2 * engine.u_of("bore_mm") / bore, above * DEPTH_U_MM / self.depth_mm)
        return Value(self.cc - above, math.hypot(*parts))
