"""The preload, or lash at the valve, that the chosen pushrods give every valve."""

from collections.abc import Iterator
from dataclasses import replace
from functools import partial

from mockup.base.stations import Station
from mockup.base.topics import Topic
from mockup.checks.check import Check, Finding, Kind
from mockup.checks.coverage import covered
from mockup.context import EvaluationContext
from mockup.engine.block import valve_places
from mockup.engine.pushrods import Lifter
from mockup.engine.valves import Place, Side
from mockup.limits.judge import Limit
from mockup.quantity.corrections import Correction, UncertaintySource, running_figure
from mockup.quantity.value import Value, rectangular

LENGTH_U_MM = rectangular(0.13)
"""Accuracy of a bought pushrod's length, +-0.005 in: common practice, no source."""


def given_by(length_mm: float, lifter: Lifter, place: Place, context: EvaluationContext) -> tuple[Correction, ...]:
    """Return the preload, or with solid lifters the lash, that a length gives a valve [mm]."""
    sign, factor = (1.0, 1.0) if lifter is Lifter.HYDRAULIC else (-1.0, context.ratio)
    return (
        Correction("pushrod chosen", Value(sign * factor * length_mm, factor * LENGTH_U_MM), UncertaintySource.PUSHROD),
        *(
            Correction(correction.text, correction.delta.scaled(-sign * factor), correction.of)
            for correction in context.pushrods[place].corrections
        ),
    )


def _corrections(place: Place, context: EvaluationContext) -> tuple[Correction, ...]:
    choice, chosen_mm = context.job.pushrod_choice, context.chosen_mm
    assert choice is not None
    assert chosen_mm is not None
    return given_by(chosen_mm, choice.lifter, place, context)


def _pushrods(context: EvaluationContext) -> Iterator[Check]:
    choice = context.job.pushrods_chosen
    if choice is None:
        return
    hydraulic = choice.lifter is Lifter.HYDRAULIC
    limit = Limit(choice.low_mm, choice.high_mm, "the window chosen with the pushrods")
    cylinders = context.job.engine.cylinder_numbers
    every = [place for cylinder in cylinders for place in valve_places(context.job.engine, cylinder)]
    for side in Side:
        mine = [place for place in every if place.side is side]
        untried = {place.cylinder for place in mine if place not in context.pushrods}
        enough = covered(context, set(cylinders) - untried)
        for place in mine:
            check = _of_a_valve(place, limit, context, hydraulic=hydraulic)
            yield check if check.governing or not enough else replace(check, required=False)


def _of_a_valve(place: Place, limit: Limit, context: EvaluationContext, *, hydraulic: bool) -> Check:
    figure, finding = context.pushrods.get(place), None
    if figure:
        again = partial(_corrections, place)
        corrections = again(context)
        finding = Finding(
            figure=running_figure(corrections),
            method="preload, hydraulic lifters" if hydraulic else "lash at the valve, solid lifters",
            corrections=corrections,
            evidence=tuple(reading.key for reading in figure.readings),
            carried=figure.carried,
            read_again=bool(figure.carried),
            again=again,
        )
    return Check(
        kind=PUSHROD_CHECK,
        cylinder=place.cylinder,
        side=place.side,
        number=place.number,
        label=f"{place.label(context.job.engine.row(place.side).count)} {'preload' if hydraulic else 'lash'}",
        limit=limit,
        governing=finding,
        missing="" if finding else "not tried",
    )


PUSHROD_CHECK = Kind(
    "pushrod",
    topics=frozenset({Topic.PUSHRODS}),
    order=80,
    label="Pushrods",
    make=_pushrods,
    shows_at=frozenset({Station.PUSHRODS}),
    of_a_valve=True,
)
