"""The engine from above, small: each bore with its worst valve's state."""

from dataclasses import dataclass

from mockup.checks.valves import FACE_EXHAUST_CHECK, FACE_INTAKE_CHECK, RADIAL_CHECK
from mockup.limits.judge import State
from mockup.report import Report, worst
from web.drawings.bores import bores

VALVE_KINDS = (FACE_INTAKE_CHECK, FACE_EXHAUST_CHECK, RADIAL_CHECK)


@dataclass(frozen=True, slots=True)
class MapMark:
    """One cylinder on the map."""

    cylinder: int
    x: float
    y: float
    state: State
    chosen: bool
    label: str


@dataclass(frozen=True, slots=True)
class EngineMap:
    """The whole map."""

    width: float
    height: float
    radius: float
    spots: tuple[MapMark, ...]


def engine_map(report: Report, chosen: int | None = None, width: float = 420.0, most_radius: float = 24.0) -> EngineMap:
    """Return the map of a report, with one cylinder chosen or none."""
    grid = bores(report.job.engine, width, most_radius, edge=8.0)
    spots = []
    for cylinder, (x, y) in sorted(grid.centres.items()):
        here = [check for check in report.checks if check.cylinder == cylinder]
        # An engine that is not checked for its valves is coloured by its other checks.
        judged = [check for check in here if check.kind in VALVE_KINDS] or here
        state = worst(judged).state if judged else State.NOT_MEASURED
        spots.append(MapMark(cylinder, x, y, state, cylinder == chosen, f"cylinder {cylinder}: {state}"))
    return EngineMap(grid.width, grid.height, grid.radius, tuple(spots))
