"""How many cylinders must be read before a build may be called clear: the margin sheet says it."""

from collections.abc import Set as AbstractSet

from mockup.limits.margins import Coverage
from mockup.readings.basis import Basis


def covered(basis: Basis, measured: AbstractSet[int]) -> bool:
    """Whether enough cylinders were measured, by number: every one, or two and one in each bank."""
    engine = basis.job.engine
    if basis.job.sheet.coverage is Coverage.EVERY:
        return set(engine.cylinder_numbers) <= measured
    enough = len(measured) >= min(2, engine.cylinders)
    return enough and all(measured & set(bank) for bank in engine.banks)
