"""Preload, or lash at the valve, that the pushrods chosen give every valve: those tried, and those still to try."""

from collections.abc import Iterator
from dataclasses import replace
from functools import partial

from mockup.checks.check import Check, Finding, Kind
from mockup.checks.coverage import covered
from mockup.engine.block import valve_places
from mockup.engine.pushrods import Lifter
from mockup.engine.valves import Place, Side
from mockup.limits.judge import Limit
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.value import Value, rectangular
from mockup.readings.basis import Basis
from mockup.stations import Station
from mockup.topics import Topic

LENGTH_U_MM = rectangular(0.13)
"""How truly a bought pushrod has its length, +-0.005 in: common practice, no source."""


def _ladder(place: Place, basis: Basis) -> tuple[Rung, ...]:
    """What the chosen length gives one valve: preload, or with solid lifters the lash at it [mm]."""
    choice, chosen_mm = basis.job.pushrod_choice, basis.chosen_mm
    assert choice is not None
    assert chosen_mm is not None
    sign, factor = (1.0, 1.0) if choice.lifter is Lifter.HYDRAULIC else (-1.0, basis.ratio)
    return (
        Rung("pushrod chosen", Value(sign * factor * chosen_mm, factor * LENGTH_U_MM), Doubt.PUSHROD),
        *(Rung(rung.text, rung.delta.scaled(-sign * factor), rung.of) for rung in basis.pushrods[place].ladder),
    )


def _pushrods(basis: Basis) -> Iterator[Check]:
    choice = basis.job.pushrods_chosen
    if choice is None:
        return
    hydraulic = choice.lifter is Lifter.HYDRAULIC
    limit = Limit(choice.low_mm, choice.high_mm, "the window the pushrods are chosen by")
    cylinders = basis.job.engine.cylinder_numbers
    every = [place for cylinder in cylinders for place in valve_places(basis.job.engine, cylinder)]
    for side in Side:
        mine = [place for place in every if place.side is side]
        untried = {place.cylinder for place in mine if place not in basis.pushrods}
        enough = covered(basis, set(cylinders) - untried)
        for place in mine:
            check = _of_a_valve(place, limit, basis, hydraulic=hydraulic)
            yield check if check.governing or not enough else replace(check, required=False)


def _of_a_valve(place: Place, limit: Limit, basis: Basis, *, hydraulic: bool) -> Check:
    figure, finding = basis.pushrods.get(place), None
    if figure:
        again = partial(_ladder, place)
        ladder = again(basis)
        finding = Finding(
            figure=running_figure(ladder),
            method="preload, hydraulic lifters" if hydraulic else "lash at the valve, solid lifters",
            ladder=ladder,
            evidence=tuple(reading.key for reading in figure.readings),
            carried=figure.carried,
            read_again=bool(figure.carried),
            again=again,
        )
    return Check(
        kind=Kind.PUSHROD,
        cylinder=place.cylinder,
        side=place.side,
        number=place.number,
        label=f"{place.label(basis.job.engine.row(place.side).count)} {'preload' if hydraulic else 'lash'}",
        limit=limit,
        governing=finding,
        missing="" if finding else "not tried",
    )


Kind(
    "pushrod",
    name="PUSHROD",
    topics=frozenset({Topic.PUSHRODS}),
    order=80,
    label="Pushrods",
    make=_pushrods,
    shows_at=frozenset({Station.PUSHRODS}),
    of_a_valve=True,
)
