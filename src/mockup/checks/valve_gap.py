"""Valve to valve: the gap between intake and exhaust valve at overlap, as it will run. Feelers read it as it stands."""

import math
from collections.abc import Iterator, Sequence
from functools import partial

from mockup.changes.change import done_since, since_words
from mockup.changes.kind import OfValve, Touched
from mockup.checks.check import Check, Finding, Kind, Trust
from mockup.checks.conditions import grounds_of
from mockup.checks.coverage import covered
from mockup.checks.weigh import weigh
from mockup.instruments import mean_rung
from mockup.limits.margins import LimitName
from mockup.quantity.ladder import Doubt, Rung, running_figure
from mockup.quantity.value import Value, rectangular
from mockup.reading_kinds import of_the_newest_engine
from mockup.readings.basis import Basis
from mockup.readings.valve_gap import ValveGapReading
from mockup.stations import Station
from mockup.topics import Topic


def _ladder(readings: Sequence[ValveGapReading], basis: Basis) -> tuple[Rung, ...]:
    """From the gap as read, the mean of repeats, to the valves as they are [mm]."""
    first = readings[0]
    tools = [basis.job.instruments[reading.instrument] for reading in readings]
    noise = max(
        math.hypot(tool.noise_mm, rectangular(r.half_width_mm)) for r, tool in zip(readings, tools, strict=True)
    )
    count = "" if len(readings) == 1 else f", mean of {len(readings)}"
    rungs = [mean_rung(f"as read{count}", [r.gap_mm for r in readings], noise, max(tool.own_mm for tool in tools))]
    for change in done_since(basis.changes, first.after):
        effect = change.kind.effect_on(Touched.VALVE_GAP)
        if isinstance(effect, OfValve) and change.side:
            figure = effect.figure(change, basis.engine.row(change.side))
            rungs += [Rung(since_words(change), figure, Doubt.CHANGES)] if figure else []
        elif effect and change.touches(first.cylinder, basis.engine):
            rungs.append(Rung(f"{since_words(change)}: by how much it moved is not known", Value(0.0)))
    return tuple(rungs)


def _finding(readings: Sequence[ValveGapReading], basis: Basis) -> Finding:
    first, mockup = readings[0], basis.job.mockup(readings[0].mockup)
    # Lift is what counts here: a bleeding lifter or lower rockers make it read large.
    grounds = grounds_of(mockup, basis.said_ratio_when(first.after), of_clay=False)
    again = partial(_ladder, readings)
    ladder = again(basis)
    moved = [change for change in done_since(basis.changes, first.after) if change.kind.effect_on(Touched.VALVE_GAP)]
    return Finding(
        figure=None if grounds.trust is Trust.VOID else running_figure(ladder),
        bound=grounds.bound(basis.job.sheet),
        trust=grounds.trust,
        method=f"{basis.job.instruments[first.instrument].name}, mock-up {first.mockup}",
        ladder=ladder,
        evidence=tuple(reading.key for reading in readings),
        cautions=grounds.cautions,
        carried=tuple(since_words(change) for change in moved),
        read_again=bool(moved),
        again=again,
    )


def _gaps(basis: Basis) -> Iterator[Check]:
    """A check of every cylinder where the sheet has a limit for it, else of those that were read."""
    job, limit = basis.job, basis.job.sheet.minimum(LimitName.VALVE_GAP)
    sets: dict[int, dict[str, list[ValveGapReading]]] = {}
    for reading in of_the_newest_engine(job.of(ValveGapReading), job.engine, job.changes):
        sets.setdefault(reading.cylinder, {}).setdefault(reading.mockup, []).append(reading)
    enough = covered(basis, set(sets))
    for cylinder in job.engine.cylinder_numbers:
        findings = [_finding(found, basis) for found in sets.get(cylinder, {}).values()]
        if not findings and not limit.is_set:
            continue
        governing, others = weigh(findings, job.sheet, limit) if findings else (None, ())
        yield Check(
            kind=Kind.VALVE_GAP,
            cylinder=cylinder,
            label=f"Valve gap {cylinder}",
            limit=limit,
            governing=governing,
            others=others,
            required=limit.is_set and (governing is not None or not enough),
            missing="" if governing else "not read",
        )


LimitName("valve_gap", name="VALVE_GAP", order=45, label="Valve to valve at overlap, least")
Kind(
    "valve gap",
    name="VALVE_GAP",
    topics=frozenset({Topic.VALVES}),
    meets=True,
    order=45,
    label="Valve to valve",
    make=_gaps,
    station=Station.SWEEP,
    shows_at=frozenset({Station.SWEEP}),
    ask="Feel the gap between the valves at overlap of cylinder",
)
