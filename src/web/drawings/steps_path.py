"""The steps of a build as a burrow: one line, dug up to the present step."""

from collections.abc import Sequence
from dataclasses import dataclass

from mockup.advice.progress import Progress

STEP = 42.0
TOP = 20.0
SWAY = 6.0
MIDDLE = 25.0


@dataclass(frozen=True, slots=True)
class Chamber:
    """One station along the burrow."""

    x: float
    y: float
    progress: str


@dataclass(frozen=True, slots=True)
class StepsPath:
    """Paths of the whole line and of the dug part, and where the stations are."""

    height: float
    soil: str
    dug: str
    chambers: tuple[Chamber, ...]


def steps_path(progress: Sequence[Progress]) -> StepsPath:
    """Return the drawing for stations in these states, top to bottom."""
    points = [(MIDDLE + (SWAY if at % 2 else -SWAY) / 2, TOP + at * STEP) for at in range(len(progress))]
    done = [at for at, state in enumerate(progress) if state is not Progress.TO_DO]
    reached = max(done, default=0)
    chambers = tuple(
        Chamber(x, y, state.value.replace(" ", "-")) for (x, y), state in zip(points, progress, strict=True)
    )
    return StepsPath(TOP * 2 + STEP * (len(points) - 1), _path(points), _path(points[: reached + 1]), chambers)


def _path(points: Sequence[tuple[float, float]]) -> str:
    (x, y), *rest = points
    parts = [f"M{x:g},{y:g}"]
    for nx, ny in rest:
        parts.append(f"C{x:g},{y + STEP / 2:g} {nx:g},{ny - STEP / 2:g} {nx:g},{ny:g}")
        x, y = nx, ny
    return " ".join(parts)
