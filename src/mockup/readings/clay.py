"""Clay readings: thicknesses of the sliced imprint under each valve, and gaps at its edge."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Affected, Change
from mockup.engine.block import Engine
from mockup.engine.valves import Place
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm, Name, Words
from mockup.quantity.shown import format_both, mm_range
from mockup.quantity.typed_train import is_no_print, parse_clay
from mockup.quantity.value import MM_PER_INCH
from mockup.readings.instruments import CALIPER
from mockup.readings.kinds import of_the_newest_engine, reading_kind
from mockup.readings.record import Reading

THICKEST_MM = 40.0
SURPRISING_MM = 0.35 * MM_PER_INCH


class Gap(StrEnum):
    """Which clearance the clay was for."""

    FACE = "face"
    RADIAL = "radial"


TOUCHED = {Gap.FACE: affected.FACE, Gap.RADIAL: affected.EDGE}
"""The quantity whose change makes a reading of each gap stale."""


def _echo(asked: Asked) -> str:
    if is_no_print(asked.text):
        return "no print: more than the clay was laid thick"
    typed = parse_clay(asked.text, asked.unit)
    over = "" if typed.touched else "more than "
    return f"{over}{format_both(typed.thickness_mm, asked.unit)} {typed.spot}".strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class Pressed(Reading):
    """One thickness of clay [mm], 0 to 40, in the mock-up named ``mockup``.

    ``touched`` False: it was not pressed, so the clearance is larger than the clay is thick. ``u_mm``: standard
    uncertainty of the reading itself, as from a picture [mm]; 0 uses the instrument's. Raises FaultsError.
    """

    mockup: Name
    thickness_mm: Mm
    instrument: Name = CALIPER
    touched: bool = True
    u_mm: Mm = 0.0

    def __post_init__(self) -> None:
        found = []
        if not 0 <= self.thickness_mm <= THICKEST_MM:
            found.append(Fault("thickness_mm", f"Clay of {mm_range(0, THICKEST_MM)}. Is the unit right?"))
        if not 0 <= self.u_mm <= 1:
            found.append(Fault("u_mm", "From 0 to 1 mm."))
        refuse(found)

    @property
    def where(self) -> str:
        """Where on the imprint it was taken, in words; empty where not stated."""
        return ""

    @property
    def surprising(self) -> bool:
        """Whether it is possible, but so thick that the figure is asked about."""
        return self.thickness_mm > SURPRISING_MM


@reading_kind(
    name="clay",
    listed="clay",
    words="clay",
    station=Station.CLAY,
    of=lambda reading: (reading.place, reading.gap),
    reads=lambda reading: TOUCHED[reading.gap],
    echo={"clay": _echo},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class ClayReading(Pressed):
    """Clay of one valve; ``spot`` is where on the imprint, or around the edge, it was taken."""

    place: Place
    gap: Gap = Gap.FACE
    spot: Words = ""

    @property
    def where(self) -> str:
        """Where on the imprint it was taken, in words."""
        return self.spot.strip().lower()


class HeadSpot(StrEnum):
    """Where clay was laid between crown and head, away from the valves."""

    PAD = "quench pad"
    PLUG = "plug"
    DOME = "dome"

    @property
    def touched(self) -> Affected:
        """The quantity whose change makes a reading here stale."""
        return affected.PAD if self is HeadSpot.PAD else affected.CROWN


@reading_kind(
    name="head",
    listed="heads",
    words="clay between crown and head",
    station=Station.CLAY,
    of=lambda reading: (reading.cylinder, reading.spot),
    reads=lambda reading: reading.spot.touched,
)
@dataclass(frozen=True, slots=True, kw_only=True)
class HeadReading(Pressed):
    """Clay between crown and head, along the bore."""

    cylinder: int
    spot: HeadSpot


ClayKey = tuple[Place, Gap, str]


def clay_sets(
    readings: Iterable[ClayReading], engine: Engine, changes: Iterable[Change] = ()
) -> dict[ClayKey, tuple[ClayReading, ...]]:
    """Return standing readings by valve, gap and mock-up, each group with its thinnest first.

    The thinnest place governs, because the valve came nearest there. For a valve read again after its crown or deck
    changed, in any mock-up, only the newer readings count.
    """
    grouped: dict[ClayKey, list[ClayReading]] = {}
    for reading in of_the_newest_engine(readings, engine, changes):
        grouped.setdefault((reading.place, reading.gap, reading.mockup), []).append(reading)
    return {key: tuple(sorted(found, key=lambda reading: reading.thickness_mm)) for key, found in grouped.items()}


HeadKey = tuple[int, HeadSpot, str]


def head_sets(
    readings: Iterable[HeadReading], engine: Engine, changes: Iterable[Change] = ()
) -> dict[HeadKey, tuple[HeadReading, ...]]:
    """Like ``clay_sets``, between crown and head: by cylinder, spot and mock-up."""
    grouped: dict[HeadKey, list[HeadReading]] = {}
    for reading in of_the_newest_engine(readings, engine, changes):
        grouped.setdefault((reading.cylinder, reading.spot, reading.mockup), []).append(reading)
    return {key: tuple(sorted(found, key=lambda reading: reading.thickness_mm)) for key, found in grouped.items()}
