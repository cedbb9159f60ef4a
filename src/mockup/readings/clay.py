"""Clay readings: thicknesses of the sliced imprint under each valve, and gaps at its edge."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.engine.block import Engine
from mockup.engine.changes import Change, Touched, age_of
from mockup.engine.valves import Side
from mockup.faults import Fault, refuse
from mockup.readings.instruments import CALIPER
from mockup.readings.record import Reading, newest, standing

THICKEST_MM = 40.0
SURPRISING_MM = 0.5 * 25.4


@dataclass(frozen=True, slots=True, order=True)
class Place:
    """One valve of one cylinder; ``number`` counts valves of that side from the front, from 1."""

    cylinder: int
    side: Side
    number: int = 1

    @property
    def bench_order(self) -> tuple[int, int, int]:
        """Cylinder by cylinder, the intake before the exhaust, from the front: a key to sort by."""
        return self.cylinder, list(Side).index(self.side), self.number

    def label(self, count: int) -> str:
        """The valve's name: ``Intake 3``, or ``Intake 3b`` where ``count`` of that side are several."""
        letter = "abc"[self.number - 1] if count > 1 else ""
        return f"{self.side.capitalize()} {self.cylinder}{letter}"


class Gap(StrEnum):
    """Which clearance the clay was measured for."""

    FACE = "face"
    RADIAL = "radial"


TOUCHED = {Gap.FACE: Touched.FACE, Gap.RADIAL: Touched.EDGE}
"""What a change must touch to make a reading of each gap one of an older engine."""


def valve_places(engine: Engine, cylinder: int) -> list[Place]:
    """Every valve of one cylinder, in bench order."""
    return [Place(cylinder, side, number) for side in Side for number in range(1, engine.row(side).count + 1)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pressed(Reading):
    """One thickness [mm], 0 to 40, of clay in the mock-up named ``mockup``.

    ``touched`` False: it was not pressed, so that the room is more than the clay is thick. Raises FaultsError.
    """

    mockup: str
    thickness_mm: float
    instrument: str = CALIPER
    touched: bool = True

    def __post_init__(self) -> None:
        if not 0 <= self.thickness_mm <= THICKEST_MM:
            refuse([Fault("thickness_mm", f"Clay of 0 to {THICKEST_MM:.0f} mm (1.57 in). Is the unit right?")])

    @property
    def where(self) -> str:
        """Where on the imprint it was taken, in words; empty where nobody said."""
        return ""

    @property
    def surprising(self) -> bool:
        """Possible, but so thick that the figure is asked about."""
        return self.thickness_mm > SURPRISING_MM


@dataclass(frozen=True, slots=True, kw_only=True)
class ClayReading(Pressed):
    """Clay of one valve; ``spot`` says where on the imprint, or round the edge, it was taken."""

    place: Place
    gap: Gap = Gap.FACE
    spot: str = ""

    @property
    def where(self) -> str:
        """Where on the imprint it was taken, in words."""
        return self.spot.strip().lower()


class Spot(StrEnum):
    """Where clay lay between crown and head, away from the valves."""

    PAD = "quench pad"
    PLUG = "plug"
    DOME = "dome"

    @property
    def touched(self) -> Touched:
        """What a change must touch to make a reading here one of an older engine."""
        return Touched.PAD if self is Spot.PAD else Touched.CROWN


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadReading(Pressed):
    """Clay between crown and head, along the bore."""

    cylinder: int
    spot: Spot


ClayKey = tuple[Place, Gap, str]


def clay_sets(
    readings: Iterable[ClayReading], engine: Engine, changes: Iterable[Change] = ()
) -> dict[ClayKey, tuple[ClayReading, ...]]:
    """Standing readings grouped by valve, gap and mock-up, each group with its thinnest first.

    The thinnest place governs: it is where the valve came nearest. Of a valve read again after its crown or deck
    was changed, in whichever mock-up, only the newer readings count; the older ones were of another engine.
    """
    done = list(changes)
    alive = newest(
        standing(readings),
        lambda reading: (reading.place, reading.gap),
        lambda reading: age_of(
            done, reading.after, reading.place.cylinder, engine, TOUCHED[reading.gap], reading.place.side
        ),
    )
    grouped: dict[ClayKey, list[ClayReading]] = {}
    for reading in alive:
        grouped.setdefault((reading.place, reading.gap, reading.mockup), []).append(reading)
    return {key: tuple(sorted(found, key=lambda reading: reading.thickness_mm)) for key, found in grouped.items()}


HeadKey = tuple[int, Spot, str]


def head_sets(
    readings: Iterable[HeadReading], engine: Engine, changes: Iterable[Change] = ()
) -> dict[HeadKey, tuple[HeadReading, ...]]:
    """The same between crown and head: standing readings by cylinder, spot and mock-up, thinnest first."""
    done = list(changes)
    alive = newest(
        standing(readings),
        lambda reading: (reading.cylinder, reading.spot),
        lambda reading: age_of(done, reading.after, reading.cylinder, engine, reading.spot.touched),
    )
    grouped: dict[HeadKey, list[HeadReading]] = {}
    for reading in alive:
        grouped.setdefault((reading.cylinder, reading.spot, reading.mockup), []).append(reading)
    return {key: tuple(sorted(found, key=lambda reading: reading.thickness_mm)) for key, found in grouped.items()}
