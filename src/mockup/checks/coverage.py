"""How many cylinders must be read before a build may be called clear, as its limits require."""

from collections.abc import Sequence
from collections.abc import Set as AbstractSet

from mockup.context import EvaluationContext
from mockup.job import Job
from mockup.limits.limit_set import Coverage

SAMPLE = 2
"""How many cylinders a sample must have at least, one in each bank."""


def covered(context: EvaluationContext, measured: AbstractSet[int]) -> bool:
    """Return whether enough cylinders were measured: all, or two and one in each bank."""
    return not wanted_next(context.job, measured, context.job.engine.cylinder_numbers)


def wanted_next(job: Job, measured: AbstractSet[int], order: Sequence[int]) -> list[int]:
    """Return the cylinders to read until enough are measured, the first useful of ``order``."""
    left = [cylinder for cylinder in order if cylinder not in measured]
    if job.limits.coverage is Coverage.EVERY:
        return left
    banks = [bank for bank in job.engine.banks if not measured & set(bank)]
    wanted = [next(cylinder for cylinder in left if cylinder in bank) for bank in banks]
    others = [cylinder for cylinder in left if cylinder not in wanted]
    lacking = min(SAMPLE, job.engine.cylinders) - len(measured) - len(wanted)
    chosen = {*wanted, *others[: max(lacking, 0)]}
    return [cylinder for cylinder in left if cylinder in chosen]
