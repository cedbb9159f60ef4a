"""The map of every valve: measured, inferred, or not known, and which seems worst."""

from dataclasses import dataclass

from mockup.checks.check import Check
from mockup.checks.valves import FACE_KINDS
from mockup.engine.block import valve_places
from mockup.engine.valves import Place
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class EveryValve:
    """One row a cylinder, one column a valve; ``seems``: the tightest unread, or None."""

    columns: tuple[str, ...]
    rows: tuple[tuple[int, tuple[Check, ...]], ...]
    seems: Check | None


def every_valve(report: Report) -> EveryValve:
    """Return the map from the face checks of the report."""
    engine = report.job.engine
    columns = [(place.side, place.number) for place in valve_places(engine, 1)]
    found = {
        (check.cylinder, check.side, check.number): check
        for kind in FACE_KINDS.values()
        for check in report.of_kind(kind)
    }
    rows = tuple(
        (cylinder, tuple(found[cylinder, side, number] for side, number in columns))
        for cylinder in engine.cylinder_numbers
    )
    unread = [check for check in found.values() if check.seems_left is not None]
    names = tuple(Place(1, side, number).label(engine.row(side).count).replace(" 1", " ") for side, number in columns)
    return EveryValve(names, rows, min(unread, key=lambda check: check.seems_left or 0.0, default=None))
