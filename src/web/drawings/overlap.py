"""The axes of charts about overlap TDC: angle across, clearance up, round steps."""

from collections.abc import Sequence

from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import MM_PER_THOU, Unit

LEFT, RIGHT, TOP, BOTTOM = 44.0, 630.0, 14.0, 262.0
REACH_DEG = 40.0
USUAL_MOST_MM = 8.0
OVER_THE_LOWEST = 1.4
"""The axis reaches at least this far above a curve's lowest point."""


def x_of(angle: float) -> float:
    """Return the horizontal position of a crank angle about overlap TDC [deg]."""
    return round(LEFT + (float(angle) + REACH_DEG) / (2 * REACH_DEG) * (RIGHT - LEFT), 1)


def y_of(mm: float, most: float) -> float:
    """Return the vertical position of a clearance [mm], ``most`` [mm] at the top."""
    return round(BOTTOM - min(max(float(mm), -0.2) / most, 1.05) * (BOTTOM - TOP), 1)


def highest_shown(wanted_mm: float, lowest_mm: float) -> float:
    """Return the top of the axis [mm], above the highest of the lowest points."""
    return max(min(wanted_mm, USUAL_MOST_MM), OVER_THE_LOWEST * lowest_mm)


def path_of(points: Sequence[tuple[float, float]]) -> str:
    """Return a line through points."""
    return "M" + " L".join(f"{x:g},{y:g}" for x, y in points)


def angles() -> tuple[tuple[float, str], ...]:
    """Return every tenth degree with position and label."""
    return tuple((x_of(angle), format_crank_angle(angle)) for angle in range(-30, 31, 10))


def rises(most: float, unit: Unit) -> tuple[tuple[float, str], ...]:
    """Return up to seven round clearances with position and label."""
    per, steps = (1.0, (0.2, 0.5, 1, 2, 5, 10, 20))
    if unit is Unit.INCH:
        per, steps = MM_PER_THOU, (10, 20, 50, 100, 200, 500, 1000)
    step = next((one for one in steps if most / per / one <= 7), steps[-1])
    return tuple((y_of(at * step * per, most), f"{at * step:g}") for at in range(int(most / per / step) + 1))
