"""A figure with its U against its limits in a strip as wide as a table cell."""

from collections.abc import Sequence
from dataclasses import dataclass

from mockup.checks.check import Check

WIDTH, LEFT, RIGHT = 84.0, 6.0, 78.0


@dataclass(frozen=True, slots=True)
class CellBar:
    """The positions of figure, ends of U and limits; a limit outside the strip is None."""

    x: float
    from_x: float
    to_x: float
    low_x: float | None
    high_x: float | None


def reach_of(checks: Sequence[Check]) -> tuple[float, float]:
    """Return the range of the strips of one row, in the figures' own unit [mm] or [1]."""
    ends: list[float] = []
    for check in checks:
        if check.figure:
            ends += [check.figure.value - check.figure.expanded, check.figure.value + check.figure.expanded]
            ends += [one for one in (check.limit.low, check.limit.high) if one is not None]
    if not ends:
        return 0.0, 1.0
    low, high = min(ends), max(ends)
    about = 0.08 * max(high - low, 1e-6)
    return low - about, high + about


def cell_bar(check: Check, reach: tuple[float, float]) -> CellBar:
    """Return the strip of one check that has a figure."""
    assert check.figure is not None
    low, high = reach

    def x(value: float) -> float:
        share = min(max((value - low) / (high - low), 0.0), 1.0)
        return round(LEFT + share * (RIGHT - LEFT), 1)

    figure, limit = check.figure, check.limit
    return CellBar(
        x=x(figure.value),
        from_x=x(figure.value - figure.expanded),
        to_x=x(figure.value + figure.expanded),
        low_x=None if limit.low is None else x(limit.low),
        high_x=None if limit.high is None else x(limit.high),
    )
