"""Volumes: chambers and pistons, measured with a burette or stated by somebody."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.faults import Fault, refuse
from mockup.quantity.value import Value, rectangular
from mockup.readings.record import Reading, standing


class Part(StrEnum):
    """Whose volume it is."""

    CHAMBER = "chamber"
    PISTON = "piston"


class Known(StrEnum):
    """How a volume is known."""

    MEASURED = "measured"
    STATED = "stated"


VOLUME_U_CC = {Known.MEASURED: rectangular(0.3), Known.STATED: rectangular(1.5)}
"""Half-widths of 0.3 cm3 by burette and plate, 1.5 cm3 for a catalogue figure: common practice, no source."""

RANGES_CC = {Part.CHAMBER: (0.1, 1500.0), Part.PISTON: (-500.0, 500.0)}


@dataclass(frozen=True, slots=True, kw_only=True)
class VolumeReading(Reading):
    """One volume [cm3]; a piston's is positive where it adds room (dish), negative for a dome.

    ``cylinder`` None stands for every cylinder that has no reading of its own. Raises FaultsError
    outside RANGES_CC.
    """

    part: Part
    cc: float
    cylinder: int | None = None
    known: Known = Known.MEASURED

    def __post_init__(self) -> None:
        low, high = RANGES_CC[self.part]
        if not low <= self.cc <= high:
            refuse([Fault("cc", f"A {self.part} volume of {abs(low):g} to {high:g} cc.")])


@dataclass(frozen=True, slots=True)
class VolumeFigure:
    """A cylinder's chamber or piston volume [cm3], how it is known, and the reading it comes from."""

    volume: Value
    known: Known
    reading: VolumeReading


def volume_figures(readings: Iterable[VolumeReading], part: Part, cylinders: Iterable[int]) -> dict[int, VolumeFigure]:
    """The volume of ``part`` that holds for each cylinder, by number; cylinders without one are left out.

    The newest reading of a cylinder governs; then the newest given for all of them.
    """
    newest: dict[int | None, VolumeReading] = {r.cylinder: r for r in standing(readings) if r.part is part}
    found = {}
    for cylinder in cylinders:
        reading = newest.get(cylinder) or newest.get(None)
        if reading is not None:
            found[cylinder] = VolumeFigure(Value(reading.cc, VOLUME_U_CC[reading.known]), reading.known, reading)
    return found
