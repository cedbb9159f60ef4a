"""Clay between crown and head, away from the valves: quench pads, plug and dome.

Along the bore a gasket, shims or a cut count fully. The thinnest governs; clay that was not pressed is a lower bound.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from mockup.base.stations import Station
from mockup.base.topics import Topic
from mockup.checks.check import Check, Finding, Kind
from mockup.checks.clearance import pressed_finding
from mockup.checks.conditions import grounds_of
from mockup.checks.to_running import ReadOf
from mockup.checks.weigh import weigh
from mockup.context import EvaluationContext
from mockup.engine.mockup import Lifters, Springs
from mockup.fit.clay_thickness import thinnest_of
from mockup.limits.limit_set import LimitName
from mockup.readings.clay import HeadReading, HeadSpot, head_sets


def _heads(context: EvaluationContext) -> Iterator[Check]:
    """Yield a check of plug and dome where they were read.

    The pads are readings of the quench and judged with it.
    """
    job = context.job
    found: dict[tuple[int, HeadSpot], list[Finding]] = {}
    for (cylinder, spot, _), readings in head_sets(job.of(HeadReading), job.engine, job.changes).items():
        if spot is not HeadSpot.PAD:
            found.setdefault((cylinder, spot), []).append(head_finding(readings, CROWN_LIMIT, context))
    limit = job.limits.minimum(CROWN_LIMIT)
    for (cylinder, spot), findings in sorted(found.items()):
        governing, others = weigh(findings, job.limits, limit)
        yield Check(
            kind=CROWN_CHECK,
            cylinder=cylinder,
            label=f"{spot.capitalize()} {cylinder}",
            limit=limit,
            governing=governing,
            others=others,
            required=False,
        )


def head_finding(readings: Sequence[HeadReading], limit: LimitName, context: EvaluationContext) -> Finding:
    """Return the finding of clay at one place under the head in one mock-up, thinnest first."""
    thinnest = thinnest_of(readings)
    of = ReadOf(cylinder=thinnest.cylinder, after=thinnest.after, limit=limit, what=thinnest.spot.touched, factor=1.0)
    # No valve moves here, so only the clay's own conditions count.
    still = replace(context.job.mockup(thinnest.mockup), lifters=Lifters.SOLID, springs=Springs.CHECKING)
    grounds = grounds_of(still, reversed_runs=context.engine.pistons_reversed)
    return pressed_finding(of, readings, context, grounds)


CROWN_LIMIT = LimitName("crown", order=40, label="Plug and dome to crown, least")
CROWN_CHECK = Kind(
    "crown to head",
    topics=frozenset({Topic.VALVES, Topic.DECK}),
    meets=True,
    order=40,
    label="Plug, dome",
    make=_heads,
    shows_at=frozenset({Station.CLAY}),
)
