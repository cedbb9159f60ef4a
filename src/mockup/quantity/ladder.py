"""A figure that was reached in steps: the reading itself, then one rung for each correction."""

from collections.abc import Iterable
from dataclasses import dataclass

from mockup.quantity.value import Value


@dataclass(frozen=True, slots=True)
class Rung:
    """One correction, on the way from the figure as read to the figure as it will run.

    ``delta`` is what it adds [mm or 1] with its standard uncertainty; the first rung is the reading itself.
    """

    text: str
    delta: Value


def running_figure(ladder: Iterable[Rung]) -> Value:
    """The sum of a ladder's rungs, their uncertainties independent [mm or 1]."""
    total = Value(0.0)
    for rung in ladder:
        total += rung.delta
    return total
