"""Valve to valve: the gap between intake and exhaust valve at overlap, from feelers."""

import math
from collections.abc import Iterator, Sequence
from functools import partial

from mockup.base.stations import Station
from mockup.base.topics import Topic
from mockup.changes.change import OfValve
from mockup.changes.since import done_since, since_words
from mockup.checks.check import Check, Finding, Kind, Trust
from mockup.checks.conditions import grounds_of
from mockup.checks.coverage import covered
from mockup.checks.weigh import weigh
from mockup.context import EvaluationContext
from mockup.limits.limit_set import LimitName
from mockup.quantity.corrections import Correction, UncertaintySource, running_figure
from mockup.quantity.value import Value, rectangular
from mockup.readings.instruments import mean_correction
from mockup.readings.kinds import of_the_newest_engine
from mockup.readings.valve_gap import VALVE_GAP, ValveGapReading


def _corrections(readings: Sequence[ValveGapReading], context: EvaluationContext) -> tuple[Correction, ...]:
    """Return the corrections from the gap as read to the valves as they are now [mm]."""
    first = readings[0]
    tools = [context.job.instruments[reading.instrument] for reading in readings]
    noise = max(
        math.hypot(tool.noise_mm, rectangular(r.half_width_mm)) for r, tool in zip(readings, tools, strict=True)
    )
    count = "" if len(readings) == 1 else f", mean of {len(readings)}"
    corrections = [
        mean_correction(f"as read{count}", [r.gap_mm for r in readings], noise, max(tool.own_mm for tool in tools))
    ]
    for change in done_since(context.changes, first.after):
        effect = change.kind.effect_on(VALVE_GAP)
        if isinstance(effect, OfValve) and change.side:
            figure = effect.figure(change, context.engine.row(change.side))
            corrections += [Correction(since_words(change), figure, UncertaintySource.CHANGES)] if figure else []
        elif effect and change.touches(first.cylinder, context.engine):
            corrections.append(Correction(f"{since_words(change)}: by how much it moved is not known", Value(0.0)))
    return tuple(corrections)


def _finding(readings: Sequence[ValveGapReading], context: EvaluationContext) -> Finding:
    first, mockup = readings[0], context.job.mockup(readings[0].mockup)
    # Lift counts here: a bleeding lifter or lower rockers make it read large.
    grounds = grounds_of(mockup, context.stated_ratio_when(first.after), of_clay=False)
    again = partial(_corrections, readings)
    corrections = again(context)
    moved = [change for change in done_since(context.changes, first.after) if change.kind.effect_on(VALVE_GAP)]
    return Finding(
        figure=None if grounds.trust is Trust.VOID else running_figure(corrections),
        bound=grounds.bound(context.job.limits),
        trust=grounds.trust,
        method=f"{context.job.instruments[first.instrument].name}, mock-up {first.mockup}",
        corrections=corrections,
        evidence=tuple(reading.key for reading in readings),
        cautions=grounds.cautions,
        carried=tuple(since_words(change) for change in moved),
        read_again=bool(moved),
        again=again,
    )


def _gaps(context: EvaluationContext) -> Iterator[Check]:
    """Yield a check for every cylinder where a limit is set, else for those that were read."""
    job, limit = context.job, context.job.limits.minimum(VALVE_GAP_LIMIT)
    sets: dict[int, dict[str, list[ValveGapReading]]] = {}
    for reading in of_the_newest_engine(job.of(ValveGapReading), job.engine, job.changes):
        sets.setdefault(reading.cylinder, {}).setdefault(reading.mockup, []).append(reading)
    enough = covered(context, set(sets))
    for cylinder in job.engine.cylinder_numbers:
        findings = [_finding(found, context) for found in sets.get(cylinder, {}).values()]
        if not findings and not limit.is_set:
            continue
        governing, others = weigh(findings, job.limits, limit) if findings else (None, ())
        yield Check(
            kind=VALVE_GAP_CHECK,
            cylinder=cylinder,
            label=f"Valve gap {cylinder}",
            limit=limit,
            governing=governing,
            others=others,
            required=limit.is_set and (governing is not None or not enough),
            missing="" if governing else "not read",
        )


VALVE_GAP_LIMIT = LimitName("valve_gap", order=45, label="Valve to valve at overlap, least")
VALVE_GAP_CHECK = Kind(
    "valve gap",
    topics=frozenset({Topic.VALVES}),
    meets=True,
    order=45,
    label="Valve to valve",
    make=_gaps,
    station=Station.SWEEP,
    shows_at=frozenset({Station.SWEEP}),
    ask="Feel the gap between the valves at overlap of cylinder",
)
