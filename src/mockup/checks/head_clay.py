"""Clay between crown and head, away from the valves: at the quench pads, the plug and the dome.

Along the bore a gasket, shims or a cut count whole. The thinnest governs; clay that was not pressed is a lower bound.
"""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from mockup.checks.check import Check, Finding, Kind
from mockup.checks.clearance import pressed_finding, thinnest_of
from mockup.checks.conditions import grounds_of
from mockup.checks.to_running import ReadOf
from mockup.checks.weigh import weigh
from mockup.engine.mockup import Lifters, Springs
from mockup.limits.margins import LimitName
from mockup.readings.basis import Basis
from mockup.readings.clay import HeadReading, HeadSpot, head_sets
from mockup.stations import Station
from mockup.topics import Topic


def _heads(basis: Basis) -> Iterator[Check]:
    """A check of plug and dome where they were read; the pads are a reading of the quench, and judged with it."""
    job = basis.job
    found: dict[tuple[int, HeadSpot], list[Finding]] = {}
    for (cylinder, spot, _), readings in head_sets(job.of(HeadReading), job.engine, job.changes).items():
        if spot is not HeadSpot.PAD:
            found.setdefault((cylinder, spot), []).append(head_finding(readings, LimitName.CROWN, basis))
    limit = job.sheet.minimum(LimitName.CROWN)
    for (cylinder, spot), findings in sorted(found.items()):
        governing, others = weigh(findings, job.sheet, limit)
        yield Check(
            kind=Kind.CROWN,
            cylinder=cylinder,
            label=f"{spot.capitalize()} {cylinder}",
            limit=limit,
            governing=governing,
            others=others,
            required=False,
        )


def head_finding(readings: Sequence[HeadReading], limit: LimitName, basis: Basis) -> Finding:
    """What clay says that was read at one place between crown and head, thinnest first, in one mock-up."""
    thinnest = thinnest_of(readings)
    of = ReadOf(cylinder=thinnest.cylinder, after=thinnest.after, limit=limit, what=thinnest.spot.touched, factor=1.0)
    # No valve moves here: of the conditions only what the clay itself is grounds counts.
    still = replace(basis.job.mockup(thinnest.mockup), lifters=Lifters.SOLID, springs=Springs.CHECKING)
    grounds = grounds_of(still, reversed_runs=basis.engine.pistons_reversed)
    return pressed_finding(of, readings, basis, grounds)


LimitName("crown", name="CROWN", order=40, label="Plug and dome to crown, least")
Kind(
    "crown to head",
    name="CROWN",
    topics=frozenset({Topic.VALVES, Topic.DECK}),
    meets=True,
    order=40,
    label="Plug, dome",
    make=_heads,
    shows_at=frozenset({Station.CLAY}),
)
