"""The deck clearance of each cylinder: its readings averaged and carried to now."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from mockup.changes import affected
from mockup.changes.since import bore_corrections
from mockup.fit.engine_history import EngineHistory
from mockup.quantity.corrections import Correction, Part, running_figure
from mockup.quantity.value import Value
from mockup.readings.deck import OPPOSITE, CrownSpot, DeckReading, Pushed
from mockup.readings.instruments import Instrument, mean_correction
from mockup.readings.kinds import of_the_newest_engine


@dataclass(frozen=True, slots=True, kw_only=True)
class DeckFigure:
    """The result of one cylinder's deck readings; lengths [mm], positive in the hole.

    ``corrections`` lead from the middle of the crown as read to ``clearance`` as it will run (base shims, cuts).
    ``edge``: its highest edge likewise, ``edge_as_read`` before it was carried, None where no edge was read. ``rock``:
    how far the crown tips either way. ``carried``: changes made since it was read, in words. ``shims_mm``: base shims
    included in ``clearance`` [mm].
    """

    clearance: Value
    corrections: tuple[Correction, ...]
    edge: Value | None
    edge_as_read: Correction | None
    rock: Value | None
    instrument: Instrument
    readings: tuple[DeckReading, ...]
    carried: tuple[str, ...] = ()
    shims_mm: float = 0.0

    @property
    def as_read(self) -> Value:
        """The middle of the crown as it was read [mm]."""
        return self.corrections[0].delta

    @property
    def crank_held(self) -> bool:
        """Whether the crank was watched at every reading for which the piston was pushed."""
        return all(reading.crank_held for reading in self.readings if reading.pushed is not Pushed.LEVEL)


def deck_figures(history: EngineHistory) -> dict[int, DeckFigure]:
    """Return the deck figure of each cylinder whose middle is known, by cylinder number.

    For a cylinder read again after a change only the newer readings count; older ones are carried over.
    """
    job = history.job
    per_cylinder: dict[int, list[DeckReading]] = {}
    for reading in of_the_newest_engine(job.of(DeckReading), job.engine, job.changes):
        per_cylinder.setdefault(reading.cylinder, []).append(reading)
    figures = {cylinder: _figure(found, history) for cylinder, found in sorted(per_cylinder.items())}
    return {cylinder: figure for cylinder, figure in figures.items() if figure}


def _figure(readings: list[DeckReading], history: EngineHistory) -> DeckFigure | None:
    instruments = history.job.instruments
    middle = _middle(readings, instruments)
    if middle is None:
        return None
    cylinder = readings[0].cylinder
    carried = bore_corrections(history.changes, readings[0].after, cylinder, history.job.engine, affected.DECK)
    then = float(np.mean([reading.shims_mm for reading in readings]))
    final = history.shims_mm(cylinder)
    shims = then if final is None else final
    corrections = (replace(middle, text=_as_read(readings)), *carried, *_shims(shims - then))
    edge = _highest_edge(readings, instruments)
    return DeckFigure(
        clearance=running_figure(corrections),
        corrections=corrections,
        edge=running_figure((edge, *corrections[1:])) if edge else None,
        edge_as_read=edge,
        rock=_rock(readings, instruments),
        instrument=max((instruments[r.instrument] for r in readings), key=lambda one: one.u_mm),
        readings=tuple(readings),
        carried=tuple(correction.text for correction in carried),
        shims_mm=shims,
    )


def _as_read(readings: Sequence[DeckReading]) -> str:
    count = sum(not reading.spot.is_edge for reading in readings)
    if not count:
        return "middle of the crown, mean of opposite edges"
    return "middle of the crown" if count == 1 else f"middle of the crown, mean of {count}"


def _shims(raised_mm: float) -> list[Correction]:
    # Shims raise the barrel and its deck, so the crown is deeper in it.
    return [Correction("base shims as read, to the ones it will run on", Value(raised_mm))] if np.any(raised_mm) else []


def _mean(readings: Sequence[DeckReading], instruments: Mapping[str, Instrument]) -> Correction:
    """Return the mean of repeats, with the least accurate instrument's uncertainty."""
    return mean_correction(
        "",
        [reading.clearance_mm for reading in readings],
        max(reading.noise_mm(instruments) for reading in readings),
        max(instruments[reading.instrument].own_mm for reading in readings),
    )


def _halfway(one: Correction, two: Correction) -> Correction:
    """Return the middle of two corrections with independent parts."""
    both = [Part(part.of, part.u / 2) for correction in (one, two) for part in correction.parts]
    return Correction("", (one.delta + two.delta).scaled(0.5), parts=tuple(both))


def _middle(readings: Sequence[DeckReading], instruments: Mapping[str, Instrument]) -> Correction | None:
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
) -> Correction | None:
    """Return an edge with the piston straight [mm]: read so, or between both pushed positions."""
    by_push = {pushed: [r for r in readings if r.spot is spot and r.pushed is pushed] for pushed in Pushed}
    if by_push[Pushed.LEVEL]:
        return _mean(by_push[Pushed.LEVEL], instruments)
    if by_push[Pushed.THRUST] and by_push[Pushed.OTHER]:
        down, up = (_mean(by_push[pushed], instruments) for pushed in (Pushed.THRUST, Pushed.OTHER))
        return _halfway(down, up)
    return None


def _highest_edge(readings: Sequence[DeckReading], instruments: Mapping[str, Instrument]) -> Correction | None:
    """Return the highest edge as pushed, the mean of its repeats."""
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
