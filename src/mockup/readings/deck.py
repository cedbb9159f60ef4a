"""Deck readings: each crown's distance from the deck at TDC, in the middle and at edges."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes import affected
from mockup.engine.gasket import MOST_SHIMS_MM
from mockup.quantity.echo import Asked
from mockup.quantity.fields import DeckMm, Mm, Name
from mockup.quantity.shown import format_bench, format_both, format_deck, mm_range, mm_text
from mockup.quantity.typed_deck import parse_deck_reading
from mockup.quantity.typed_gap import STEP_TOO_WIDE
from mockup.quantity.value import rectangular
from mockup.readings.instruments import BRIDGE, Instrument
from mockup.readings.kinds import reading_kind
from mockup.readings.record import Reading

DEEPEST_MM = 50.0
SURPRISING_MM = 2.0


class CrownSpot(StrEnum):
    """Where on the crown it was read: over the pin's ends, or across it."""

    CENTRE = "centre"
    PIN = "over the pin"
    THRUST = "thrust edge"
    OTHER = "other edge"
    FRONT = "front edge"
    REAR = "rear edge"

    @property
    def is_edge(self) -> bool:
        """Whether it is at the rim of the crown."""
        return self not in (CrownSpot.CENTRE, CrownSpot.PIN)


class Pushed(StrEnum):
    """Which edge of the piston was pushed down; a piston rocks only about its pin."""

    LEVEL = "not pushed"
    THRUST = "thrust edge down"
    OTHER = "other edge down"


OPPOSITE = ((CrownSpot.THRUST, CrownSpot.OTHER), (CrownSpot.FRONT, CrownSpot.REAR))


def _echo(asked: Asked) -> str:
    typed = parse_deck_reading(asked.text, asked.unit, asked.sign, asked.tool)
    way = format_deck(typed.mm, asked.unit).partition(" ")[2]
    either_way = f"±{format_bench(typed.half_width_mm, asked.unit)}" if typed.half_width_mm else ""
    return f"{format_both(abs(typed.mm), asked.unit)} {way} {either_way}".strip()


@reading_kind(
    name="deck",
    of_the_block=True,
    listed="deck",
    words="deck",
    station=Station.DECK,
    of=lambda reading: reading.cylinder,
    reads=lambda _: affected.DECK,
    echo={"deck": _echo},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class DeckReading(Reading):
    """One reading of one crown: ``clearance_mm`` [mm], positive in the hole, within +-50.

    ``half_width_mm``: for feelers, half the step between the thickest that goes and the thinnest that does not [mm].
    ``crank_held``: the crank was watched and did not move while the piston was pushed. ``shims_mm``: base shims under
    the barrel during the reading [mm], 0 to 10. Raises FaultsError.
    """

    cylinder: int
    clearance_mm: DeckMm
    instrument: Name = BRIDGE
    spot: CrownSpot = CrownSpot.CENTRE
    pushed: Pushed = Pushed.LEVEL
    half_width_mm: Mm = 0.0
    crank_held: bool = True
    shims_mm: Mm = 0.0

    def __post_init__(self) -> None:
        found = []
        if not abs(self.clearance_mm) <= DEEPEST_MM:
            limit = f"A crown within {mm_text(DEEPEST_MM)} of the deck. Is the unit right?"
            found.append(Fault("clearance_mm", limit))
        if not 0 <= self.half_width_mm <= 1:
            found.append(Fault("half_width_mm", STEP_TOO_WIDE))
        if not 0 <= self.shims_mm <= MOST_SHIMS_MM:
            found.append(Fault("shims_mm", f"Base shims of {mm_range(0, 10)}."))
        refuse(found)

    @property
    def surprising(self) -> bool:
        """Whether it is possible, but so far from the deck that the figure is asked about."""
        return abs(self.clearance_mm) > SURPRISING_MM

    def noise_mm(self, instruments: Mapping[str, Instrument]) -> float:
        """Return the standard uncertainty against a repeat [mm]; for feelers from their step."""
        instrument = instruments[self.instrument]
        if not self.half_width_mm:
            return instrument.noise_mm
        return math.hypot(rectangular(self.half_width_mm), instrument.repeats_mm)
