"""The deck form: its fields, what is read in them and with which tool, and how it is shown."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from mockup.quantity.shown import format_both, format_deck, format_deck_signed
from mockup.quantity.typed import LengthError, parse_bench_length
from mockup.quantity.typed_deck import Counts, parse_deck_reading
from mockup.readings.deck import CrownSpot, DeckReading, Pushed
from mockup.readings.instruments import BRIDGE, DEPTH_ROD, FEELERS, RULE
from mockup.readings.record import standing
from web.page.build_page import Asked, BuildPage
from web.page.echo import tool_of
from web.page.read_fields import Field, Reader, Saved, Wrong, instrument_choices, questions_by_key, record_line

COUNTS = [
    (Counts.WORDS, "I type down or out"),
    (Counts.DIAL, "a dial, up as the plunger goes in"),
    (Counts.DEPTH, "a depth gauge"),
]
SPOTS = [(CrownSpot.CENTRE, "the centre"), (CrownSpot.PIN, "over the pin")]
HELD = [("yes", "crank watched, it stayed"), ("no", "crank not watched")]
EDGES = {
    CrownSpot.THRUST: (Pushed.THRUST, Pushed.OTHER, Pushed.LEVEL),
    CrownSpot.OTHER: (Pushed.THRUST, Pushed.OTHER, Pushed.LEVEL),
    CrownSpot.FRONT: (Pushed.LEVEL,),
    CrownSpot.REAR: (Pushed.LEVEL,),
}
"""Where edges are read, and with which edge pushed down: a piston rocks about its pin, not along it."""


@dataclass(frozen=True, slots=True)
class DeckInHand:
    """The choices of the form, shared by all its fields, and kept from one saving to the next."""

    instrument: str
    spot: str
    counts: str
    zero: str
    held: str
    shims: str


def in_hand(asked: Asked) -> DeckInHand:
    """Return the choices sent with the fields, or the usual ones."""
    posted = asked.POST
    return DeckInHand(
        instrument=posted.get("instrument", BRIDGE),
        spot=posted.get("spot", CrownSpot.CENTRE),
        counts=posted.get("counts", Counts.WORDS),
        zero=posted.get("zero", ""),
        held=posted.get("held", "yes"),
        shims=posted.get("shims", ""),
    )


def instruments(page: BuildPage) -> list[tuple[str, str]]:
    """Return the instruments for a deck."""
    return instrument_choices(page, BRIDGE, DEPTH_ROD, FEELERS, RULE)


def edge_name(cylinder: int, spot: CrownSpot, pushed: Pushed) -> str:
    """Return the name of an edge's field."""
    return f"edge-{cylinder}-{spot.name.lower()}-{pushed.name.lower()}"


def readers(asked: Asked, page: BuildPage) -> dict[str, Reader]:
    """Return how each field of the form is read."""
    hand = in_hand(asked)

    def read(cylinder: int, spot: CrownSpot | None, pushed: Pushed, text: str) -> DeckReading:
        if hand.instrument not in dict(instruments(page)):
            raise LengthError("Choose the instrument.")
        if spot is None and hand.spot not in dict(SPOTS):
            raise LengthError("Choose the place on the crown.")
        tool = tool_of({"counts": hand.counts, "zero": hand.zero}, page.unit)
        typed = parse_deck_reading(text, page.unit, page.deck_sign, tool)
        return DeckReading(
            key="",
            cylinder=cylinder,
            clearance_mm=typed.mm,
            half_width_mm=typed.half_width_mm,
            instrument=hand.instrument,
            spot=spot or CrownSpot(hand.spot),
            pushed=pushed,
            crank_held=hand.held != "no",
            shims_mm=parse_bench_length(hand.shims, page.unit) if hand.shims.strip() else 0.0,
        )

    cylinders = range(1, page.build.engine.cylinders + 1)
    found: dict[str, Reader] = {f"deck-{c}": partial(read, c, None, Pushed.LEVEL) for c in cylinders}
    for cylinder in cylinders:
        for spot, pushes in EDGES.items():
            for pushed in pushes:
                found[edge_name(cylinder, spot, pushed)] = partial(read, cylinder, spot, pushed)
    return found


@dataclass(frozen=True, slots=True)
class DeckRow:
    """One cylinder of the form."""

    cylinder: int
    saved: list[Saved]
    mean: str
    stale: str
    field: Field


def rows(page: BuildPage, wrong: Mapping[str, Wrong]) -> list[DeckRow]:
    """Return the rows of the form: the middle of every crown."""
    report, unit = page.report, page.unit
    questions = questions_by_key(page)
    found = []
    for cylinder in report.job.engine.cylinder_numbers:
        readings = [r for r in standing(report.job.of(DeckReading)) if r.cylinder == cylinder and not r.spot.is_edge]
        figure = report.deck.get(cylinder)
        moved = figure is not None and figure.clearance.value != figure.as_read.value
        shown = format_deck(figure.clearance.value, unit) if figure else ""
        name = f"deck-{cylinder}"
        wanted = not readings or bool(figure and figure.carried)
        found.append(
            DeckRow(
                cylinder=cylinder,
                saved=[saved(page, reading, questions, wrong) for reading in readings],
                mean=(f"will be {shown}" if moved else f"mean {shown}") if moved or len(readings) > 1 else "",
                stale=", ".join(figure.carried) if figure else "",
                field=Field(name, f"Deck of cylinder {cylinder}", "deck", int(wanted), wrong.get(name)),
            )
        )
    return found


def edge_rows(page: BuildPage, cylinder: int, wrong: Mapping[str, Wrong], *, wanted: bool) -> list[dict[str, Any]]:
    """Return the edges of one crown: a row each, a cell for each way it is pushed."""
    here = [r for r in standing(page.report.job.of(DeckReading)) if r.cylinder == cylinder and r.spot.is_edge]
    found = []
    for spot, pushes in EDGES.items():
        cells = []
        for pushed in (Pushed.THRUST, Pushed.OTHER, Pushed.LEVEL):
            mine = [reading for reading in here if reading.spot is spot and reading.pushed is pushed]
            name = edge_name(cylinder, spot, pushed)
            asked = wanted and not mine and (pushed is not Pushed.LEVEL) and len(pushes) > 1
            field = Field(name, f"{spot} of {cylinder}, {pushed}", "deck", int(asked), wrong.get(name))
            cells.append(
                {
                    "saved": [saved(page, reading, {}, wrong) for reading in mine],
                    "field": field if pushed in pushes else None,
                }
            )
        found.append({"label": spot, "cells": cells})
    return found


def rocked(page: BuildPage) -> list[int]:
    """Return the cylinders whose edges were read."""
    return sorted({r.cylinder for r in standing(page.report.job.of(DeckReading)) if r.spot.is_edge})


def saved(page: BuildPage, reading: DeckReading, questions: Mapping[str, str], wrong: Mapping[str, Wrong]) -> Saved:
    """Return a reading in the log, as the form shows it."""
    mm, unit, record = reading.clearance_mm, page.unit, reading.record
    signed = format_deck_signed(mm, unit, page.deck_sign)
    tool = page.instruments[reading.instrument].name
    shims = f" · on {format_both(reading.shims_mm, unit)} of shims" if reading.shims_mm else ""
    watched = "" if reading.crank_held else " · crank not watched"
    return Saved(
        key=reading.key,
        text=format_deck(mm, unit),
        both=f"{signed} in this build’s signs · {format_both(abs(mm), unit)} · {tool}{shims}{watched}",
        record=record_line(record.by, record.at, record.typed),
        question=questions.get(reading.key, ""),
        wrong=wrong.get(f"strike-{reading.key}"),
    )
