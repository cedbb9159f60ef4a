"""What a change would do: the same job with the change in it, evaluated the same way and laid beside what is."""

from dataclasses import dataclass, replace

from mockup.checks.check import Check, Kind
from mockup.engine.changes import Change
from mockup.evaluate import evaluate
from mockup.job import Job
from mockup.report import Report, worst


@dataclass(frozen=True, slots=True)
class Effect:
    """One kind of check before and after: the worst-off check of each."""

    kind: Kind
    before: Check
    after: Check


def done(job: Job, change: Change) -> Job:
    """The job with ``change`` done as its latest, whether it was decided already or not."""
    last = max((other.order or 0 for other in job.changes), default=0)
    others = tuple(other for other in job.changes if other.key != change.key)
    return replace(job, changes=(*others, replace(change, order=last + 1)))


def effects(before: Report, changed: Job) -> tuple[Effect, ...]:
    """What the changed job makes of every kind of check that the report has a figure for."""
    after = evaluate(changed)
    pairs = ((kind, before.of_kind(kind), after.of_kind(kind)) for kind in Kind)
    return tuple(
        Effect(kind, worst(was), worst(would))
        for kind, was, would in pairs
        if any(check.figure for check in was) and would
    )
