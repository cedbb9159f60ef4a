"""The deck of each cylinder: as read, or told by clay on its quench pads.

Clay on a pad is deck and gasket together, so that the deck is the clay less the mock-up's gasket. It is used where no
deck was read. Checked against the usual sum in tests/core/test_decks_from_clay.py.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from mockup.changes import affected
from mockup.changes.since import bore_corrections
from mockup.engine.mockup import Clay, MockUp
from mockup.fit.clay_thickness import DOUGH_U_MM, thinnest_correction, thinnest_of
from mockup.fit.deck_figures import DeckFigure
from mockup.fit.engine_history import EngineHistory
from mockup.quantity.corrections import running_figure
from mockup.quantity.value import Value
from mockup.readings.clay import HeadReading, HeadSpot, head_sets


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownDeck:
    """A deck clearance as it will run, positive in the hole [mm], and what tells it.

    ``evidence``: the keys of its readings. ``carried``: changes made since, in words. ``shims_mm``: base shims included
    [mm]. ``by_clay``: told by clay on the pads alone.
    """

    clearance: Value
    evidence: tuple[str, ...]
    carried: tuple[str, ...] = ()
    shims_mm: float = 0.0
    by_clay: bool = False


def known_decks(history: EngineHistory, read: Mapping[int, DeckFigure]) -> dict[int, KnownDeck]:
    """Return every deck that is ``read``, or that clay on the pads tells, by cylinder number."""
    found = {cylinder: _as_read(figure) for cylinder, figure in read.items()}
    for cylinder in history.job.engine.cylinder_numbers:
        if cylinder not in found and (clay := _by_clay(cylinder, history)):
            found[cylinder] = clay
    return dict(sorted(found.items()))


def known_words(decks: Mapping[int, KnownDeck], cylinders: int) -> str:
    """Return what an order rests on: ``4 of 6 decks known, 2 by clay on the pads``."""
    clay = sum(deck.by_clay for deck in decks.values())
    by_clay = f", {clay} by clay on the pads" if clay else ""
    return f"{len(decks)} of {cylinders} decks {'known' if clay else 'read'}{by_clay}"


def pads_read(cylinder: int, history: EngineHistory) -> list[tuple[HeadReading, ...]]:
    """Return the clay on one cylinder's quench pads, thinnest first, of each mock-up."""
    job = history.job
    sets = head_sets(job.of(HeadReading), job.engine, job.changes)
    return [readings for (at, spot, _), readings in sets.items() if at == cylinder and spot is HeadSpot.PAD]


def _as_read(figure: DeckFigure) -> KnownDeck:
    return KnownDeck(
        clearance=figure.clearance,
        evidence=tuple(reading.key for reading in figure.readings),
        carried=figure.carried,
        shims_mm=figure.shims_mm,
    )


def _by_clay(cylinder: int, history: EngineHistory) -> KnownDeck | None:
    """Return the least deck of a cylinder by its pads; None where no clay was pressed."""
    found = [deck for readings in pads_read(cylinder, history) if (deck := _less_gasket(readings, history))]
    return min(found, key=lambda deck: float(np.min(deck.clearance.value)), default=None)


def _less_gasket(readings: Sequence[HeadReading], history: EngineHistory) -> KnownDeck | None:
    thinnest = thinnest_of(readings)
    mockup, after, cylinder = history.job.mockup(thinnest.mockup), thinnest.after, thinnest.cylinder
    gasket = _gasket(mockup, after, history)
    if not thinnest.touched or gasket is None:
        return None
    since = bore_corrections(history.changes, after, cylinder, history.engine, affected.PAD)
    final = history.shims_mm(cylinder)
    shims = mockup.shims_mm if final is None else final
    soft = Value(shims - mockup.shims_mm, DOUGH_U_MM if mockup.clay is Clay.DOUGH else 0.0)
    as_read = thinnest_correction(readings, history.job.instruments)
    deck = running_figure([as_read, *since]) + gasket.scaled(-1) + soft
    return KnownDeck(
        clearance=deck,
        evidence=tuple(reading.key for reading in readings),
        carried=tuple(change.text for change in since),
        shims_mm=shims,
        by_clay=True,
    )


def _gasket(mockup: MockUp, after: int, history: EngineHistory) -> Value | None:
    """Return the mock-up's gasket [mm]; None for the final one while none is chosen."""
    if mockup.gasket is not None:
        return mockup.gasket
    more = history.gasket_more(mockup, after)
    if history.final is None or more is None:
        return None
    return history.final.thickness + more.scaled(-1)
