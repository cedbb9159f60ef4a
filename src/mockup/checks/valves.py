"""Valve clearance of every valve, at face and relief edge, by clay and by indicator."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial

from mockup.base.stations import Station
from mockup.base.topics import Topic
from mockup.checks.check import Check, Finding, Kind
from mockup.checks.clearance import clay_finding
from mockup.checks.coverage import covered
from mockup.checks.inferred import with_inferred
from mockup.checks.other_cam import clay_before, sweep_before
from mockup.checks.sweeps import sweep_finding
from mockup.checks.valve_limits import FACE_LIMITS, RADIAL_LIMIT
from mockup.checks.weigh import weigh
from mockup.context import EvaluationContext
from mockup.engine.block import valve_places
from mockup.engine.parts import PART_U_MM
from mockup.engine.valves import Place, Relief, Side
from mockup.limits.judge import Limit
from mockup.limits.limit_set import LimitName
from mockup.readings.clay import Gap


def _faces(side: Side, context: EvaluationContext) -> Iterator[Check]:
    kind, limit = FACE_KINDS[side], FACE_LIMITS[side]
    faces = list(_of_a_side(kind, limit, side, Gap.FACE, context))
    differ = context.job.parts_differ
    yield from with_inferred(faces, context.job.engine.row(side), context.deck, differ.u_mm if differ else PART_U_MM)


def _edges(context: EvaluationContext) -> Iterator[Check]:
    for side in Side:
        yield from _of_a_side(RADIAL_CHECK, RADIAL_LIMIT, side, Gap.RADIAL, context)


def _findings(side: Side, limit: LimitName, gap: Gap, context: EvaluationContext) -> dict[Place, list[Finding]]:
    """Return the findings of one gap at the valves of one side, clay first."""
    found: dict[Place, list[Finding]] = {}
    for (place, read, _), readings in context.clay.items():
        if read is gap and place.side is side:
            before = gap is Gap.FACE and context.swapped_since(min(one.after for one in readings))
            says = clay_before if before else clay_finding
            found.setdefault(place, []).append(says(readings, limit, context))
    for figure in context.sweeps if gap is Gap.FACE else ():
        if figure.place.side is side:
            says_of = sweep_before if context.swapped_since(figure.after) and not figure.shut else sweep_finding
            found.setdefault(figure.place, []).append(says_of(figure, limit, context))
    return found


def _of_a_side(kind: Kind, name: LimitName, side: Side, gap: Gap, context: EvaluationContext) -> Iterator[Check]:
    """Yield the checks of one gap at every valve of one side.

    Unmeasured valves are required until the coverage of the limits is reached; measured ones always are. A check
    without a minimum is required for the faces (somebody must set one) and not for the edge, which is left out where it
    was not read.
    """
    job, found = context.job, _findings(side, name, gap, context)
    every = (place for cylinder in job.engine.cylinder_numbers for place in valve_places(job.engine, cylinder))
    limit = job.limits.minimum(name)
    checks = [_of_a_valve(kind, place, limit, found.get(place, []), context) for place in every if place.side is side]
    # A flat crown has no relief edge for a valve to meet.
    flat = job.engine.row(side).relief is Relief.FLAT
    optional = gap is Gap.RADIAL and (flat or not limit.is_set)
    if optional and not any(check.governing for check in checks):
        return
    enough = covered(context, {check.cylinder for check in checks} - {c.cylinder for c in checks if c.figure is None})
    for check in checks:
        skipped = enough and check.governing is None
        yield replace(check, required=False) if optional or skipped else check


def _of_a_valve(
    kind: Kind, place: Place, limit: Limit, findings: Sequence[Finding], context: EvaluationContext
) -> Check:
    # A reading of the engine as it is goes before another method's reading from before a change.
    findings = [finding for finding in findings if finding.figure and not finding.read_again] or findings
    governing, others = weigh(findings, context.job.limits, limit) if findings else (None, ())
    label = place.label(context.job.engine.row(place.side).count)
    return Check(
        kind=kind,
        cylinder=place.cylinder,
        side=place.side,
        number=place.number,
        label=label + (" edge" if kind is RADIAL_CHECK else ""),
        limit=limit,
        governing=governing,
        others=others,
        missing="" if governing else "not read",
    )


_SHOWN = frozenset({Station.CLAY, Station.SWEEP})
FACE_INTAKE_CHECK = Kind(
    "intake face",
    meets=True,
    topics=frozenset({Topic.VALVES}),
    order=10,
    label="Intake",
    make=partial(_faces, Side.INTAKE),
    shows_at=_SHOWN,
)
FACE_EXHAUST_CHECK = Kind(
    "exhaust face",
    meets=True,
    topics=frozenset({Topic.VALVES}),
    order=20,
    label="Exhaust",
    make=partial(_faces, Side.EXHAUST),
    shows_at=_SHOWN,
)
RADIAL_CHECK = Kind(
    "radial",
    meets=True,
    topics=frozenset({Topic.VALVES}),
    order=30,
    label="Edge",
    make=_edges,
    shows_at=frozenset({Station.CLAY}),
    of_a_valve=True,
)
FACE_KINDS = {Side.INTAKE: FACE_INTAKE_CHECK, Side.EXHAUST: FACE_EXHAUST_CHECK}
"""The kind of check for each side's valve faces."""
VALVE_KINDS = (FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK, RADIAL_CHECK)
"""The kinds read at the valves, by clay or by indicator."""
