"""How far a relief's edge must be laid back on each side to clear its valve."""

from collections.abc import Iterator
from dataclasses import dataclass

from mockup.checks.check import Check
from mockup.checks.valves import RADIAL_CHECK
from mockup.limits.judge import State
from mockup.readings.clay import ClayReading
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class LayBack:
    """One side of a relief, by the word it was read with, and how far it must go back [mm]."""

    where: str
    by_mm: float


def lay_back(report: Report, check: Check) -> Iterator[LayBack]:
    """Yield each measured side of a relief that is not clear, and how far to lay it back [mm].

    Its own reading, carried like the governing one, must be above the minimum by U. Yields nothing for a check that is
    not of an edge, is clear, or has no minimum.
    """
    least, found = check.limit.low, check.governing
    if check.kind is not RADIAL_CHECK or check.state is State.CLEAR or least is None or not found or not found.figure:
        return
    keys = set(found.evidence)
    read = [one for one in report.job.of(ClayReading) if one.key in keys and one.touched]
    nearest = min((one.thickness_mm for one in read), default=0.0)
    sides: dict[str, float] = {}
    for one in read:
        figure = found.figure.value + one.thickness_mm - nearest
        lacks = least + found.figure.expanded - figure
        sides[one.where] = max(sides.get(one.where, 0.0), lacks)
    for where, lacks in sides.items():
        if lacks > 0:
            yield LayBack(where, lacks)
