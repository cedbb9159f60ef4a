"""The run: how far a job has come, station by station, in bench order."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from mockup.checks.check import Kind
from mockup.quantity.shown import format_deck
from mockup.report import Report, Station, Verdict


class Progress(StrEnum):
    """How far one station has come."""

    DONE = "done"
    NEXT = "next"
    BEGUN = "begun"
    TO_DO = "to do"


@dataclass(frozen=True, slots=True)
class Stop:
    """One station of the run: how far it has come, and a few words of what it found."""

    station: Station
    progress: Progress
    note: str


def run_of(report: Report) -> tuple[Stop, ...]:
    """All stations in bench order; the one that holds the next step is ``next``."""
    clear = report.verdict is Verdict.CLEAR
    ahead = None if clear else report.steps[0].station
    open_stations = set() if clear else {step.station for step in report.steps}
    notes = dict(_notes(report))
    stops = []
    for station in Station:
        begun = bool(notes.get(station))
        if station is ahead:
            progress = Progress.NEXT
        elif station in open_stations:
            progress = Progress.BEGUN if begun else Progress.TO_DO
        else:
            progress = Progress.DONE if begun else Progress.TO_DO
        stops.append(Stop(station, progress, notes.get(station, "")))
    return tuple(stops)


def _notes(report: Report) -> Iterator[tuple[Station, str]]:
    job = report.job
    yield Station.BLOCK, f"{job.engine.layout} {job.engine.cylinders}"
    if report.deck:
        highest = min(figure.clearance.value for figure in report.deck.values())
        count = f"{len(report.deck)} of {job.engine.cylinders}"
        yield Station.DECK, f"{count}, highest {format_deck(highest, job.unit)}"
    ratios = [check.figure.value for check in report.of_kind(Kind.RATIO) if check.figure]
    if ratios:
        yield (
            Station.VOLUMES,
            f"{min(ratios):.2f} to 1" if len(ratios) == 1 else f"{min(ratios):.2f}–{max(ratios):.2f}",
        )
    elif job.final_gasket or job.volumes:
        yield Station.VOLUMES, "begun"
    if job.mockups:
        yield Station.MOCKUP, f"mock-up {job.mockups[-1].key}"
    clayed = {reading.place.cylinder for reading in job.clay if not reading.record.struck}
    if clayed:
        yield Station.CLAY, f"{len(clayed)} of {job.engine.cylinders} cylinders"
    if report.tightest:
        yield Station.VERDICT, str(report.verdict)
