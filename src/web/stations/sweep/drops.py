"""The known drop of every valve, by which other cams are judged."""

from dataclasses import dataclass

from mockup.checks.other_cam import known_drops
from mockup.quantity.value import Value
from mockup.report import Report


@dataclass(frozen=True, slots=True)
class DropRow:
    """One valve's drop, as found and as it will run [mm] or None; how it is known."""

    label: str
    side: str
    as_found: Value
    running: Value | None
    how: str


def drop_rows(report: Report) -> list[DropRow]:
    """Return one row for each valve, in bench order."""
    engine, context = report.job.engine, report.context
    return [
        DropRow(
            label=place.label(engine.row(place.side).count),
            side=str(place.side),
            as_found=drop.as_found,
            running=drop.running(context),
            how=f"{drop.how.removeprefix('the drop, ')}, mock-up {drop.mockup.key}",
        )
        for place, drop in known_drops(context).items()
    ]
