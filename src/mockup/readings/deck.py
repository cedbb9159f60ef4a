"""Deck readings: how far each crown stands below or above the deck face at TDC, in the middle and at its edges."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np

from mockup.changes.change import bore_rungs
from mockup.changes.kind import Touched
from mockup.engine.gasket import MOST_SHIMS_MM
from mockup.faults import Fault, refuse
from mockup.instruments import BRIDGE, Instrument, mean_rung
from mockup.quantity.echo import Asked
from mockup.quantity.fields import DeckMm, Mm, Name
from mockup.quantity.ladder import Part, Rung, running_figure
from mockup.quantity.shown import format_bench, format_both, format_deck
from mockup.quantity.typed_deck import parse_deck_reading
from mockup.quantity.value import Value, rectangular
from mockup.reading_kinds import of_the_newest_engine, reading_kind
from mockup.record import Reading
from mockup.stations import Station

if TYPE_CHECKING:
    from mockup.readings.basis import Basis


DEEPEST_MM = 50.0
SURPRISING_MM = 2.0


class CrownSpot(StrEnum):
    """Where on the crown it was read; front and rear lie over the pin's ends, thrust and other side across it."""

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
    """Which edge of the piston was pushed down while it was read; a piston rocks about its pin only."""

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
    listed="deck",
    words="deck",
    station=Station.DECK,
    of=lambda reading: reading.cylinder,
    reads=lambda _: Touched.DECK,
    echo={"deck": _echo},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class DeckReading(Reading):
    """One reading of one crown: ``clearance_mm`` [mm], positive in the hole, within +-50.

    ``half_width_mm``: of feelers, half the step between the thickest that goes and the thinnest that does not [mm].
    ``crank_held``: somebody watched that the crank did not move while the piston was pushed. ``shims_mm``: base
    shims under the barrel while it was read [mm], 0 to 10. Raises FaultsError.
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
            limit = f"A crown within {DEEPEST_MM:.0f} mm (1.97 in) of the deck. Is the unit right?"
            found.append(Fault("clearance_mm", limit))
        if not 0 <= self.half_width_mm <= 1:
            found.append(Fault("half_width_mm", "Feelers that go and do not go lie within 2 mm (0.079 in)."))
        if not 0 <= self.shims_mm <= MOST_SHIMS_MM:
            found.append(Fault("shims_mm", "Base shims of 0 to 10 mm (0.394 in)."))
        refuse(found)

    @property
    def surprising(self) -> bool:
        """Possible, but so far from the deck that the figure is asked about."""
        return abs(self.clearance_mm) > SURPRISING_MM

    def noise_mm(self, instruments: Mapping[str, Instrument]) -> float:
        """Standard uncertainty of this one reading as against the next [mm]; feelers read to where they go no more."""
        instrument = instruments[self.instrument]
        if not self.half_width_mm:
            return instrument.noise_mm
        return math.hypot(rectangular(self.half_width_mm), instrument.repeats_mm)


@dataclass(frozen=True, slots=True, kw_only=True)
class DeckFigure:
    """What one cylinder's deck readings amount to; lengths [mm], positive in the hole.

    ``ladder`` leads from the middle of the crown as read to ``clearance`` as it will run (base shims, cuts);
    ``edge`` is its highest edge likewise, ``edge_as_read`` before it was carried, None where no edge was read;
    ``rock`` how far the crown tips either way. ``carried``: changes made since it was read, in words. ``shims_mm``:
    base shims counted in ``clearance`` [mm].
    """

    clearance: Value
    ladder: tuple[Rung, ...]
    edge: Value | None
    edge_as_read: Rung | None
    rock: Value | None
    instrument: Instrument
    readings: tuple[DeckReading, ...]
    carried: tuple[str, ...] = ()
    shims_mm: float = 0.0

    @property
    def as_read(self) -> Value:
        """The middle of the crown as it was read [mm]."""
        return self.ladder[0].delta

    @property
    def crank_held(self) -> bool:
        """Whether nothing was pushed without the crank being watched."""
        return all(reading.crank_held for reading in self.readings if reading.pushed is not Pushed.LEVEL)


def deck_figures(basis: "Basis") -> dict[int, DeckFigure]:
    """The deck figure of each cylinder whose middle is known, by cylinder number.

    Of a cylinder read again after a change, only the newer readings count; older ones are carried over.
    """
    job = basis.job
    per_cylinder: dict[int, list[DeckReading]] = {}
    for reading in of_the_newest_engine(job.of(DeckReading), job.engine, job.changes):
        per_cylinder.setdefault(reading.cylinder, []).append(reading)
    figures = {cylinder: _figure(found, basis) for cylinder, found in sorted(per_cylinder.items())}
    return {cylinder: figure for cylinder, figure in figures.items() if figure}


def _figure(readings: list[DeckReading], basis: "Basis") -> DeckFigure | None:
    instruments = basis.job.instruments
    middle = _middle(readings, instruments)
    if middle is None:
        return None
    cylinder = readings[0].cylinder
    carried = bore_rungs(basis.changes, readings[0].after, cylinder, basis.job.engine, Touched.DECK)
    then = float(np.mean([reading.shims_mm for reading in readings]))
    final = basis.shims_mm(cylinder)
    shims = then if final is None else final
    ladder = (replace(middle, text=_as_read(readings)), *carried, *_shims(shims - then))
    edge = _highest_edge(readings, instruments)
    return DeckFigure(
        clearance=running_figure(ladder),
        ladder=ladder,
        edge=running_figure((edge, *ladder[1:])) if edge else None,
        edge_as_read=edge,
        rock=_rock(readings, instruments),
        instrument=max((instruments[r.instrument] for r in readings), key=lambda one: one.u_mm),
        readings=tuple(readings),
        carried=tuple(rung.text for rung in carried),
        shims_mm=shims,
    )


def _as_read(readings: Sequence[DeckReading]) -> str:
    count = sum(not reading.spot.is_edge for reading in readings)
    if not count:
        return "middle of the crown, mean of opposite edges"
    return "middle of the crown" if count == 1 else f"middle of the crown, mean of {count}"


def _shims(raised_mm: float) -> list[Rung]:
    # Shims raise the barrel and its deck: the crown stands deeper in it.
    return [Rung("base shims as read, to the ones it will run on", Value(raised_mm))] if np.any(raised_mm) else []


def _mean(readings: Sequence[DeckReading], instruments: Mapping[str, Instrument]) -> Rung:
    """Mean of repeats, by the least sure of its instruments."""
    return mean_rung(
        "",
        [reading.clearance_mm for reading in readings],
        max(reading.noise_mm(instruments) for reading in readings),
        max(instruments[reading.instrument].own_mm for reading in readings),
    )


def _halfway(one: Rung, two: Rung) -> Rung:
    """The middle of two, each with parts of its own."""
    both = [Part(part.of, part.u / 2) for rung in (one, two) for part in rung.parts]
    return Rung("", (one.delta + two.delta).scaled(0.5), parts=tuple(both))


def _middle(readings: Sequence[DeckReading], instruments: Mapping[str, Instrument]) -> Rung | None:
    over_the_pin = [reading for reading in readings if not reading.spot.is_edge]
    if over_the_pin:
        return _mean(over_the_pin, instruments)
    for one, two in OPPOSITE:
        pair = (edge_at_rest(readings, one, instruments), edge_at_rest(readings, two, instruments))
        if pair[0] and pair[1]:
            return _halfway(pair[0], pair[1])
    return None


def edge_at_rest(
    readings: Iterable[DeckReading], spot: CrownSpot, instruments: Mapping[str, Instrument]
) -> Rung | None:
    """An edge with the piston straight in its bore [mm]: read so, or halfway between pushed one way and the other."""
    by_push = {pushed: [r for r in readings if r.spot is spot and r.pushed is pushed] for pushed in Pushed}
    if by_push[Pushed.LEVEL]:
        return _mean(by_push[Pushed.LEVEL], instruments)
    if by_push[Pushed.THRUST] and by_push[Pushed.OTHER]:
        down, up = (_mean(by_push[pushed], instruments) for pushed in (Pushed.THRUST, Pushed.OTHER))
        return _halfway(down, up)
    return None


def _highest_edge(readings: Sequence[DeckReading], instruments: Mapping[str, Instrument]) -> Rung | None:
    """The edge that stood highest as it was pushed; read again so, the mean of it."""
    by_spot: dict[tuple[CrownSpot, Pushed], list[DeckReading]] = {}
    for reading in readings:
        if reading.spot.is_edge:
            by_spot.setdefault((reading.spot, reading.pushed), []).append(reading)
    edges = [_mean(found, instruments) for found in by_spot.values()]
    return min(edges, key=lambda edge: edge.delta.value, default=None)


def _rock(readings: Sequence[DeckReading], instruments: Mapping[str, Instrument]) -> Value | None:
    found = []
    for spot in (CrownSpot.THRUST, CrownSpot.OTHER):
        pushed = [[r for r in readings if r.spot is spot and r.pushed is way] for way in (Pushed.THRUST, Pushed.OTHER)]
        if pushed[0] and pushed[1]:
            down, up = (_mean(each, instruments).delta for each in pushed)
            apart = down + up.scaled(-1)
            found.append(Value(abs(apart.value), apart.u, apart.freedom).scaled(0.5))
    return max(found, key=lambda rock: rock.value) if found else None
