"""Do the pushrods in hand fit: what each length gives every valve tried, preload or lash.

Lengths bought, and the old ones beside the new, each as the check of the chosen length counts it (checks/pushrods.py),
with what a bought length may be off.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from mockup.checks.pushrods import given_by
from mockup.engine.pushrods import LENGTHS_MM, Lifter
from mockup.engine.valves import Place
from mockup.limits.judge import Limit, State, judge
from mockup.quantity.corrections import running_figure
from mockup.quantity.shown import mm_range
from mockup.quantity.typed import LengthError, parse_dimension, split_lengths
from mockup.quantity.value import Unit, Value
from mockup.report import Report

MOST_LENGTHS = 8


@dataclass(frozen=True, slots=True)
class Gives:
    """What one length gives one valve: preload, or lash at the valve, with U [mm].

    ``state``: against the window chosen for it, None where none was.
    """

    place: Place
    length_mm: float
    left: Value
    state: State | None


def pushrods_in_hand(report: Report, lengths_mm: Sequence[float]) -> Iterator[tuple[Place, tuple[Gives, ...]]]:
    """Yield for each valve tried what every length gives, in bench order."""
    for place in report.pushrods:
        yield place, tuple(_gives(report, place, length) for length in lengths_mm)


def _gives(report: Report, place: Place, length_mm: float) -> Gives:
    choice = report.job.pushrod_choice
    lifter = choice.lifter if choice else Lifter.HYDRAULIC
    left = running_figure(given_by(length_mm, lifter, place, report.context))
    state = judge(left, Limit(low=choice.low_mm, high=choice.high_mm)) if choice else None
    return Gives(place, length_mm, left, state)


def parse_lengths(text: str, unit: Unit) -> tuple[float, ...]:
    """Read pushrod lengths: ``7.400 7.450``, or ``187.3 mm; 188 mm`` [mm].

    Raises LengthError.
    """
    parts = split_lengths(text)
    if len(parts) > MOST_LENGTHS:
        raise LengthError(f"At most {MOST_LENGTHS} lengths.")
    found = tuple(parse_dimension(part, unit) for part in parts)
    low, high = LENGTHS_MM
    if not all(low <= one <= high for one in found):
        raise LengthError(f"A pushrod of {mm_range(low, high)}.")
    return found
