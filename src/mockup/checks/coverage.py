"""How many cylinders must be read before a build may be called clear: the margin sheet says it."""

from collections.abc import Sequence
from collections.abc import Set as AbstractSet

from mockup.job import Job
from mockup.limits.margins import Coverage
from mockup.readings.basis import Basis

SAMPLE = 2
"""How many cylinders a sheet that asks for a sample wants at least, one in each bank."""


def covered(basis: Basis, measured: AbstractSet[int]) -> bool:
    """Whether enough cylinders were measured, by number: every one, or two and one in each bank."""
    return not wanted_next(basis.job, measured, basis.job.engine.cylinder_numbers)


def wanted_next(job: Job, measured: AbstractSet[int], order: Sequence[int]) -> list[int]:
    """The cylinders to read until enough were, by number: the first of ``order`` that serve, and no more."""
    left = [cylinder for cylinder in order if cylinder not in measured]
    if job.sheet.coverage is Coverage.EVERY:
        return left
    banks = [bank for bank in job.engine.banks if not measured & set(bank)]
    wanted = [next(cylinder for cylinder in left if cylinder in bank) for bank in banks]
    others = [cylinder for cylinder in left if cylinder not in wanted]
    lacking = min(SAMPLE, job.engine.cylinders) - len(measured) - len(wanted)
    chosen = {*wanted, *others[: max(lacking, 0)]}
    return [cylinder for cylinder in left if cylinder in chosen]
