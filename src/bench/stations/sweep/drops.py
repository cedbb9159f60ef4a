"""The drop of every valve it is known of: what any other cam is judged by."""

from dataclasses import dataclass

from mockup.checks.other_cam import known_drops
from mockup.quantity.value import Value
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class DropLine:
    """One valve: its drop as found and as it will run [mm], None while no final gasket is chosen; how it is known."""

    label: str
    side: str
    as_found: Value
    running: Value | None
    how: str


def drop_lines(report: Report) -> list[DropLine]:
    """A line a valve, in bench order."""
    engine, basis = report.job.engine, report.basis
    return [
        DropLine(
            label=place.label(engine.row(place.side).count),
            side=str(place.side),
            as_found=drop.as_found,
            running=drop.running(basis),
            how=f"{drop.how.removeprefix('the drop, ')}, mock-up {drop.mockup.key}",
        )
        for place, drop in known_drops(basis).items()
    ]
