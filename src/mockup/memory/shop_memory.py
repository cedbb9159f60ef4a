"""What one build leaves a shop to remember: differing parts, repeats, its result.

Only sums are kept for each build, and added up over many. Part to part: for the same valve of several cylinders, z_i =
C_i - k d_i, the sum (z_i - mean)^2 over n - 1 estimates u_part^2 plus the scatter of the readings. Only the scatter
shown by repeats at this bench is subtracted: an instrument's stated repeatability is no knowledge of this bench, and a
u_part that is too small would promise what was not measured. The shop's u_part shrinks to the usual one like a variance
with few degrees of freedom (scaled inverse chi-square, worth four; Gelman et al., Bayesian Data Analysis, 2.6).
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from mockup.changes.cuts import DECK_CUT
from mockup.changes.since import change_words
from mockup.checks.check import Check
from mockup.checks.other_cam import known_drops
from mockup.checks.valves import FACE_KINDS
from mockup.engine.parts import PART_U_MM
from mockup.engine.valves import Side
from mockup.job import Job
from mockup.limits.judge import Bound
from mockup.quantity.fields import fields_of
from mockup.readings.clay import ClayReading
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Reading, standing
from mockup.report import Report

PRIOR_FREEDOM = 4.0
"""The weight of the usual scatter of parts beside the shop's own, in degrees of freedom."""
FEWEST_FREEDOM = 6.0
"""With fewer degrees of freedom the shop's own scatter is not offered."""
FEWEST_REPEATS = 4.0
CLOSEST_KEPT = 4


@dataclass(frozen=True, slots=True)
class Squares:
    """Sums over builds: squared deviations [mm2], and their degrees of freedom [1]."""

    squares: float = 0.0
    freedom: float = 0.0

    def __add__(self, other: "Squares") -> "Squares":
        """Add two sums."""
        return Squares(self.squares + other.squares, self.freedom + other.freedom)


def part_squares(report: Report) -> Squares:
    """Return how the valves read differ from cylinder to cylinder once their decks are counted."""
    found = Squares()
    for side, kind in FACE_KINDS.items():
        k = report.job.engine.row(side).axial_factor
        alike: dict[int, list[Check]] = {}
        for check in report.of_kind(kind):
            exact = check.governing and check.governing.bound is Bound.EXACT
            if check.figure and exact and check.cylinder in report.deck:
                alike.setdefault(check.number, []).append(check)
        for checks in alike.values():
            decks = [report.deck[check.cylinder].clearance.value for check in checks]
            values = [check.figure.value - k * own for check, own in zip(checks, decks, strict=True) if check.figure]
            mean = sum(values) / len(values)
            own = (len(values) - 1.0) * _shown_by_repeats_mm2(report, checks)
            found += Squares(sum((one - mean) ** 2 for one in values) - own, len(values) - 1.0)
    return found


def _shown_by_repeats_mm2(report: Report, checks: Iterable[Check]) -> float:
    """Return the readings' own variance for some valves, from the mean of their repeats [mm2].

    From slices measured again at one named place; 0 where there are too few.
    """
    clay = {one.key: one for one in report.job.of(ClayReading)}
    squares, freedom, means, places = 0.0, 0, 0.0, 0
    for check in checks:
        again: dict[str, list[float]] = {}
        for one in (clay[key] for key in (check.governing.evidence if check.governing else ()) if key in clay):
            if one.where and one.touched:
                again.setdefault(one.where, []).append(one.thickness_mm)
        for read in again.values():
            mean = sum(read) / len(read)
            squares += sum((one - mean) ** 2 for one in read)
            freedom, means, places = freedom + len(read) - 1, means + 1 / len(read), places + 1
    return squares / freedom * means / places if freedom >= FEWEST_FREEDOM else 0.0


@dataclass(frozen=True, slots=True)
class PartScatter:
    """How much parts of the shop's engines differ: standard deviation [mm] with freedom."""

    u_mm: float
    freedom: float


def part_scatter(found: Squares) -> PartScatter | None:
    """Return the shop's scatter of parts [mm]; None where too few cylinders were compared."""
    if found.freedom < FEWEST_FREEDOM:
        return None
    variance = (PRIOR_FREEDOM * PART_U_MM**2 + max(found.squares, 0.0)) / (PRIOR_FREEDOM + found.freedom)
    return PartScatter(math.sqrt(variance), found.freedom)


@dataclass(frozen=True, slots=True)
class Repeated:
    """How a person's readings with one instrument repeated: squares [mm2] and freedom [1]."""

    instrument: str
    by: str
    squares: float
    freedom: int


def repeats_of(job: Job) -> list[Repeated]:
    """Return the repeats: the same thing read again with the same instrument by the same person.

    Slices of clay without a named place are not repeats, since each is another place of the imprint.
    """
    groups: dict[tuple[Any, ...], list[float]] = {}
    for kind in READING_KINDS:
        lengths = [held.name for held in fields_of(kind.core) if held.measure and held.is_required]
        if not kind.has_instrument or len(lengths) != 1:
            continue
        for reading in standing(job.of(kind.core)):
            if not isinstance(reading, ClayReading) or reading.where:
                groups.setdefault(_same(reading, lengths[0]), []).append(getattr(reading, lengths[0]))
    found: dict[tuple[str, str], tuple[float, int]] = {}
    for (_, instrument, by, *_), values in groups.items():
        if len(values) > 1 and by:
            mean = sum(values) / len(values)
            squares, freedom = found.get((instrument, by), (0.0, 0))
            found[instrument, by] = (squares + sum((one - mean) ** 2 for one in values), freedom + len(values) - 1)
    return [Repeated(*who, *sums) for who, sums in found.items()]


def _same(reading: Reading, length: str) -> tuple[Any, ...]:
    """Return the identity of a reading: every field except number, key and time."""
    said = [
        getattr(reading, held.name)
        for held in fields_of(type(reading))
        if held.name not in ("key", "record", length, "half_width_mm")
    ]
    return (type(reading).__name__, getattr(reading, "instrument", ""), reading.record.by, *said)


def repeats_within(squares: float, freedom: float, usual_mm: float | None = None) -> float | None:
    """Return the standard deviation of reading again [mm]; None where there are too few.

    It shrinks to the instrument's stated repeatability, ``usual_mm``, like a variance with few degrees of freedom.
    """
    if freedom < FEWEST_REPEATS:
        return None
    prior = 0.0 if usual_mm is None else PRIOR_FREEDOM
    return math.sqrt((prior * (usual_mm or 0.0) ** 2 + squares) / (prior + freedom))


def deck_cut_mm(job: Job, *, planned: bool = False) -> float:
    """Return what was cut off the deck at its deepest [mm]; ``planned`` counts decided cuts."""
    cuts = [one for one in job.changes if one.kind is DECK_CUT and (planned or one.order is not None)]
    ends = [
        (sum(one.front_mm for one in mine), sum(one.rear_mm for one in mine))
        for bank in range(len(job.engine.banks))
        if (mine := [one for one in cuts if one.bank in (None, bank)])
    ]
    return max((max(pair) for pair in ends), default=0.0)


def facts_of(report: Report) -> dict[str, Any]:
    """Return the result of a build as plain data for the shop's memory; lengths [mm]."""
    job, engine = report.job, report.job.engine
    closest = sorted(
        (check for check in report.checks if check.figure and check.margin is not None),
        key=lambda check: check.margin or 0.0,
    )
    drops: dict[Side, list[float]] = {}
    for drop in known_drops(report.context).values():
        running = drop.running(report.context)
        if running:
            drops.setdefault(drop.place.side, []).append(running.value)
    return {
        "layout": str(engine.layout),
        "decks": [figure.clearance.value for figure in report.deck.values()],
        "closest": [_closest(check) for check in closest[:CLOSEST_KEPT]],
        "drops": {str(side): sum(found) / len(found) for side, found in drops.items()},
        "deck_cut": deck_cut_mm(job),
        "cam": job.camshaft.name if job.camshaft else "",
        "changes": [[change_words(one, job.unit), one.order is not None] for one in job.changes],
        "repeats": [[one.instrument, one.by, one.squares, one.freedom] for one in repeats_of(job)],
    }


def _closest(check: Check) -> dict[str, Any]:
    assert check.figure is not None
    return {
        "label": check.label,
        "value": check.figure.value,
        "U": check.figure.expanded,
        "left": check.margin,
        "state": str(check.state),
        "length": check.kind.is_length,
    }
