"""The zero-lash pushrod length of each valve as it will run, and lengths to choose from."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from mockup.changes import affected
from mockup.changes.change import EffectFrom
from mockup.changes.since import bore_corrections, done_since, since_words
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.valves import Place
from mockup.fit.engine_history import EngineHistory
from mockup.quantity.corrections import Correction, UncertaintySource, running_figure
from mockup.quantity.value import Value, mean_of_repeats
from mockup.readings.kinds import of_the_newest_engine
from mockup.readings.pushrods import PushrodReading


@dataclass(frozen=True, slots=True)
class PushrodFigure:
    """One valve's zero-lash length as it will run [mm], corrections, trials, changes since."""

    zero: Value
    corrections: tuple[Correction, ...]
    readings: tuple[PushrodReading, ...]
    carried: tuple[str, ...]

    @property
    def spread_mm(self) -> float:
        """The difference between the longest and the shortest trial [mm]."""
        lengths = [reading.length_mm for reading in self.readings]
        return max(lengths) - min(lengths)


def pushrod_figures(history: EngineHistory) -> dict[Place, PushrodFigure]:
    """Return each tried valve's zero-lash length by place, from its newest mock-up.

    A later difference dz of gasket, deck or shims changes it by dz x cos(lean).
    """
    job = history.job
    tried: dict[Place, list[PushrodReading]] = {}
    for reading in of_the_newest_engine(job.of(PushrodReading), job.engine, job.changes):
        tried.setdefault(reading.place, []).append(reading)
    return {place: _figure(tried[place], history) for place in sorted(tried, key=lambda place: place.bench_order)}


def _figure(readings: list[PushrodReading], history: EngineHistory) -> PushrodFigure:
    newest = [reading for reading in readings if reading.mockup == readings[-1].mockup]
    read = mean_of_repeats([reading.length_mm for reading in newest], max(reading.u_mm for reading in newest))
    choice = history.job.pushrod_choice
    share = math.cos(math.radians(choice.lean_deg if choice else 0.0))
    corrections = [Correction("zero-lash length as tried", read, UncertaintySource.REPEATABILITY)]
    gasket = history.gasket_more(history.job.mockup(newest[0].mockup), newest[0].after)
    # Without a final gasket the length stays as mocked up.
    if gasket is not None and history.final:
        corrections.append(
            Correction("gasket as mocked up, to the final one", gasket.scaled(share), UncertaintySource.GASKET)
        )
    moved = _cuts(newest[0], history)
    corrections += [Correction(correction.text, correction.delta.scaled(share), correction.of) for correction in moved]
    return PushrodFigure(
        running_figure(corrections), tuple(corrections), tuple(newest), tuple(correction.text for correction in moved)
    )


def _cuts(reading: PushrodReading, history: EngineHistory) -> tuple[Correction, ...]:
    """Return decks and heads cut since, and changes with no known effect on the length."""
    place = reading.place
    cuts = bore_corrections(history.changes, reading.after, place.cylinder, history.job.engine, affected.PUSHROD)
    others = (
        Correction(f"{since_words(change, 'tried')}: by how much it moved is not known", Value(0.0))
        for change in done_since(history.changes, reading.after)
        if change.kind.effect_on(affected.PUSHROD) is EffectFrom.UNKNOWN and change.is_of(place.side)
    )
    return (*cuts, *others)


@dataclass(frozen=True, slots=True)
class LengthOption:
    """One available length [mm], and the preload or lash it would give one valve [mm]."""

    length_mm: float
    gives_mm: float
    fits: bool


NEAR_TARGET_MM = 2.54
"""Pushrods on the shelf further from the target than this belong to another engine: our own bound, 0.1 in."""


def length_options(
    choice: PushrodChoice, zero_mm: float, ratio: float, shelf_mm: Iterable[float] = ()
) -> tuple[LengthOption, ...]:
    """Return the maker's lengths about the target and close ones on the shelf, shortest first."""
    target = choice.target_mm(zero_mm, ratio)
    lengths = {round(length, 6) for length in shelf_mm if abs(length - target) <= NEAR_TARGET_MM}
    if choice.step_mm:
        below = math.floor(target / choice.step_mm + 1e-9)
        lengths |= {round(count * choice.step_mm, 6) for count in (below, below + 1)}
    found = []
    for length in sorted(lengths):
        gives = choice.left_mm(length, zero_mm, ratio)
        found.append(LengthOption(length, gives, choice.low_mm - 1e-6 <= gives <= choice.high_mm + 1e-6))
    return tuple(found)
