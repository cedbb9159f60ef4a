"""Clay readings: thicknesses of the sliced imprint under each valve, and gaps at its edge."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.engine.block import Engine
from mockup.engine.changes import Change
from mockup.engine.valves import Side
from mockup.faults import Fault, refuse
from mockup.readings.instruments import CALIPER
from mockup.readings.record import Reading, standing

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


@dataclass(frozen=True, slots=True, kw_only=True)
class ClayReading(Reading):
    """One thickness [mm], 0 to 40, of the clay of one valve in the mock-up named ``mockup``.

    ``touched`` False: the valve left no mark, so that the clearance is more than the clay is thick. ``spot`` says
    where on the imprint, or round the edge, it was taken.
    """

    mockup: str
    place: Place
    gap: Gap = Gap.FACE
    thickness_mm: float
    instrument: str = CALIPER
    touched: bool = True
    spot: str = ""

    def __post_init__(self) -> None:
        if not 0 <= self.thickness_mm <= THICKEST_MM:
            refuse([Fault("thickness_mm", f"Clay of 0 to {THICKEST_MM:.0f} mm (1.57 in). Is the unit right?")])

    @property
    def surprising(self) -> bool:
        """Possible, but so thick that the figure is asked about."""
        return self.thickness_mm > SURPRISING_MM


class Spot(StrEnum):
    """Where clay lay between crown and head, away from the valves."""

    PAD = "quench pad"
    PLUG = "plug"
    DOME = "dome"


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadReading(Reading):
    """One thickness [mm], 0 to 40, of clay between crown and head along the bore, in the mock-up ``mockup``.

    ``touched`` False: it was not pressed, so that the room is more than the clay is thick. Raises FaultsError.
    """

    mockup: str
    cylinder: int
    spot: Spot
    thickness_mm: float
    instrument: str = CALIPER
    touched: bool = True

    def __post_init__(self) -> None:
        if not 0 <= self.thickness_mm <= THICKEST_MM:
            refuse([Fault("thickness_mm", f"Clay of 0 to {THICKEST_MM:.0f} mm (1.57 in). Is the unit right?")])


ClayKey = tuple[Place, Gap, str]


def clay_sets(
    readings: Iterable[ClayReading], engine: Engine, changes: Iterable[Change] = ()
) -> dict[ClayKey, tuple[ClayReading, ...]]:
    """Standing readings grouped by valve, gap and mock-up, each group with its thinnest first.

    The thinnest place governs: it is where the valve came nearest. Of a valve read again after its crown or deck
    was changed, in whichever mock-up, only the newer readings count; the older ones were of another engine.
    """
    moved = [change for change in changes if change.order is not None and change.kind.moves_the_crown]
    grouped: dict[ClayKey, list[ClayReading]] = {}
    newest: dict[tuple[Place, Gap], int] = {}

    def age(reading: ClayReading) -> int:
        if not moved:
            return 0
        return max(
            (
                c.order or 0
                for c in moved
                if (c.order or 0) <= reading.after and c.touches(reading.place.cylinder, engine)
            ),
            default=0,
        )

    alive = standing(readings)
    for reading in alive:
        if moved:
            key = (reading.place, reading.gap)
            newest[key] = max(newest.get(key, 0), age(reading))
    for reading in alive:
        if age(reading) == newest.get((reading.place, reading.gap), 0):
            grouped.setdefault((reading.place, reading.gap, reading.mockup), []).append(reading)
    return {key: tuple(sorted(found, key=lambda reading: reading.thickness_mm)) for key, found in grouped.items()}
