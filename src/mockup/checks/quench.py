"""Quench: deck clearance plus compressed gasket at TDC, cold."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial

from mockup.base.stations import Station
from mockup.base.topics import Topic
from mockup.checks.check import Check, Finding, Kind
from mockup.checks.head_clay import head_finding
from mockup.checks.running import budget
from mockup.checks.weigh import weigh
from mockup.context import EvaluationContext
from mockup.fit.deck_figures import DeckFigure
from mockup.fit.known_decks import pads_read
from mockup.limits.judge import Bound, Limit
from mockup.limits.limit_set import LimitName, LimitSet, in_inches
from mockup.quantity.corrections import Correction, UncertaintySource, running_figure
from mockup.quantity.shown import mm_text
from mockup.quantity.value import MM_PER_THOU

CONTACT = "The crown stands out further than the gasket is thick: it would touch the head."
TIGHT_MM = 25 * MM_PER_THOU
"""With less quench than this cold, crowns have hit the head hot: common practice, no source."""
TIGHT = (
    f"Under {mm_text(TIGHT_MM)} cold, with growth and stretch not known: the crown may hit the head at speed. Fill in "
    "the running estimate first."
)
CLAY_IS_OFF_MM = 0.3
"""A slice of clay is seldom this far off, 12 thou: common practice, no source."""
CRANK_MOVED = "The crank was not watched while the piston was pushed: it may have moved."


def _over_the_middle(cylinder: int, context: EvaluationContext) -> tuple[Correction, ...]:
    assert context.final is not None
    return (
        *context.deck[cylinder].corrections,
        Correction("final gasket, compressed", context.final.thickness, UncertaintySource.GASKET),
    )


def _at_the_edge(cylinder: int, context: EvaluationContext) -> tuple[Correction, ...]:
    deck = context.deck[cylinder]
    assert deck.edge_as_read is not None
    first = replace(deck.edge_as_read, text="highest edge of the crown, rocked as it was")
    return (first, *_over_the_middle(cylinder, context)[1:])


def _over_the_pads(cylinder: int, context: EvaluationContext) -> list[Finding]:
    """Return the finding of clay on one cylinder's quench pads in each mock-up."""
    return [head_finding(readings, QUENCH_LOW_LIMIT, context) for readings in pads_read(cylinder, context)]


def _weighed(
    by_deck: Finding | None, pads: list[Finding], limits: LimitSet, window: Limit
) -> tuple[Finding | None, tuple[Finding, ...]]:
    """Return what governs: the deck, unless clay is lower by more than its usual error."""
    deck = by_deck.figure if by_deck else None
    nearer = [one for one in pads if deck and one.figure and one.figure.value < deck.value - CLAY_IS_OFF_MM]
    nearer = [one for one in nearer if one.bound is Bound.EXACT]
    if by_deck and not nearer:
        return by_deck, tuple(pads)
    if not pads:
        return None, ()
    governing, others = weigh(nearer or pads, limits, window)
    left = [one for one in (by_deck, *pads) if one and one is not governing and one not in others]
    return governing, (*others, *left)


def _finding(
    deck: DeckFigure, again: Callable[[EvaluationContext], tuple[Correction, ...]], context: EvaluationContext
) -> Finding:
    corrections = again(context)
    figure = running_figure(corrections)
    cautions = [CONTACT] if figure.value <= 0 else []
    cautions += [TIGHT] if context.job.running is None and figure.value < TIGHT_MM else []
    cautions += [] if deck.crank_held else [CRANK_MOVED]
    return Finding(
        figure=figure,
        method=deck.instrument.name,
        corrections=corrections,
        evidence=tuple(reading.key for reading in deck.readings),
        cautions=tuple(cautions),
        carried=deck.carried,
        read_again=bool(deck.carried),
        again=again,
    )


def _floor_mm(cylinder: int, context: EvaluationContext, *, rocked: bool) -> float:
    """Return what growth, stretch and bearings use of a cold quench [mm]; 0 if not known.

    ``rocked``: the rock is already in the figure.
    """
    running, deck = context.job.running, context.deck.get(cylinder)
    if running is None or deck is None:
        return 0.0
    uses = budget(replace(deck, rock=None) if rocked else deck, context.crank, running)
    return max(-uses.total_mm, 0.0)


def _quench(context: EvaluationContext) -> Iterator[Check]:
    window = context.job.limits.window(QUENCH_LOW_LIMIT, QUENCH_HIGH_LIMIT)
    for cylinder in context.job.engine.cylinder_numbers:
        deck = context.deck.get(cylinder)
        known = context.final is not None and deck
        by_deck = _finding(deck, partial(_over_the_middle, cylinder), context) if known and deck else None
        pads = _over_the_pads(cylinder, context)
        governing, others = _weighed(by_deck, pads, context.job.limits, window)
        yield Check(
            kind=QUENCH_CHECK,
            cylinder=cylinder,
            label=f"Quench {cylinder}",
            limit=window,
            governing=governing,
            others=others,
            required=window.is_set,
            missing="" if governing else ("no final gasket" if deck else "deck not read"),
            floor=_floor_mm(cylinder, context, rocked=False),
        )


def _edges(context: EvaluationContext) -> Iterator[Check]:
    # A rocked edge is always nearer than the middle, so it is only judged against the lower limit.
    least = context.job.limits.minimum(QUENCH_LOW_LIMIT)
    for cylinder, deck in context.deck.items():
        if context.final and deck.edge_as_read:
            yield Check(
                kind=QUENCH_EDGE_CHECK,
                cylinder=cylinder,
                label=f"Quench {cylinder} edge",
                limit=least,
                governing=_finding(deck, partial(_at_the_edge, cylinder), context),
                required=False,
                floor=_floor_mm(cylinder, context, rocked=True),
            )


QUENCH_LOW_LIMIT = LimitName(
    "quench_low",
    order=50,
    label="Quench, least",
    usual=in_inches(street=0.035, street_floor=0.035, street_roller=0.035, turned_about=0.035, careful=0.035),
)
QUENCH_HIGH_LIMIT = LimitName(
    "quench_high",
    order=60,
    label="Quench, most",
    usual=in_inches(street=0.045, street_floor=0.045, street_roller=0.045, turned_about=0.045, careful=0.050),
    upper_of=QUENCH_LOW_LIMIT,
    window="Quench",
)
QUENCH_CHECK = Kind(
    "quench",
    meets=True,
    topics=frozenset({Topic.DECK}),
    order=50,
    label="Quench",
    make=_quench,
    shows_at=frozenset({Station.QUENCH}),
)
QUENCH_EDGE_CHECK = Kind(
    "quench at the edge",
    topics=frozenset({Topic.DECK}),
    meets=True,
    order=60,
    label="Quench, edge",
    make=_edges,
    shows_at=frozenset({Station.QUENCH}),
    only_worse=True,
)
