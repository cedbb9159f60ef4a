"""How far a job has come, station by station, in bench order."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from mockup.base.stations import Station
from mockup.base.topics import is_asked
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.checks.valves import VALVE_KINDS
from mockup.engine.valves import Side
from mockup.job import Job
from mockup.quantity.shown import format_bench, format_deck, format_degrees
from mockup.readings.clay import ClayReading
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import standing
from mockup.readings.volumes import VolumeReading
from mockup.report import Report, station_read_at


class Progress(StrEnum):
    """How far one station has come."""

    DONE = "done"
    NEXT = "next"
    BEGUN = "begun"
    STALE = "stale"
    TO_DO = "to do"


@dataclass(frozen=True, slots=True)
class Stop:
    """One station: how far it has come, and a few words of what was found.

    ``aside``: nothing this build is checked for needs it, and nothing was entered there.
    """

    station: Station
    progress: Progress
    note: str
    aside: bool = False


def progress_of(report: Report) -> tuple[Stop, ...]:
    """Return all stations in bench order; the one with the next step is ``next``."""
    ahead = report.steps[0].station
    open_stations = {step.station for step in report.steps}
    notes = {**_counted(report.job), **dict(_notes(report))}
    stale = set(_stale(report))
    stops = []
    for station in Station:
        begun = bool(notes.get(station))
        if station in stale:
            progress = Progress.STALE
        elif station is ahead:
            progress = Progress.NEXT
        elif station in open_stations:
            progress = Progress.BEGUN if begun else Progress.TO_DO
        else:
            progress = Progress.DONE if begun else Progress.TO_DO
        aside = progress is Progress.TO_DO and not is_asked(station, report.job.topics)
        stops.append(Stop(station, progress, notes.get(station, ""), aside))
    return tuple(stops)


def _counted(job: Job) -> dict[Station, str]:
    """Return how many readings each station has, as the note of a station that has no other."""
    found: Counter[Station] = Counter()
    for kind in READING_KINDS:
        found[kind.station] += len(standing(job.of(kind.core)))
    return {station: f"{count} reading{'s' if count > 1 else ''}" for station, count in found.items() if count}


def _stale(report: Report) -> Iterator[Station]:
    """Yield the stations whose readings are of the engine before a change."""
    if any(figure.carried for figure in report.deck.values()):
        yield Station.DECK
    if any(figure.carried for known in report.parts.values() for figure in known.values()):
        yield Station.VOLUMES
    if any(one.degreed and one.degreed.moved_deg for one in report.cam.sides.values()):
        yield Station.CAM
    for check in report.checks:
        if check.kind in VALVE_KINDS and check.governing and check.carried:
            yield station_read_at(report.job, check.governing)
        elif check.kind.station and check.carried:
            yield check.kind.station


def _notes(report: Report) -> Iterator[tuple[Station, str]]:
    job = report.job
    yield Station.BLOCK, f"{job.engine.layout} {job.engine.cylinders}"
    if report.tdc.figure:
        error = report.tdc.figure.error_deg.value
        yield Station.TDC, f"wheel {format_degrees(abs(error))} {'late' if error > 0 else 'early'}"
    yield from _deck_notes(report)
    yield from _train_notes(report)


def _deck_notes(report: Report) -> Iterator[tuple[Station, str]]:
    job = report.job
    if report.deck:
        highest = min(figure.clearance.value for figure in report.deck.values())
        count = f"{len(report.deck)} of {job.engine.cylinders}"
        yield Station.DECK, f"{count}, highest {format_deck(highest, job.unit)}"
    stack = [job.final_gasket.name or "gasket chosen"] if job.final_gasket else []
    stack += ["cut decided" for change in job.changes if change.order is None and change.kind.station is Station.STACK]
    yield Station.STACK, ", ".join(stack)
    quench = [check.figure.value for check in report.of_kind(QUENCH_CHECK) if check.figure]
    if quench:
        low, high = (format_bench(value, job.unit) for value in (min(quench), max(quench)))
        yield Station.QUENCH, low if low == high else f"{low}–{high}"
    ratios = [check.figure.value for check in report.of_kind(RATIO_CHECK) if check.figure]
    if ratios:
        yield (
            Station.VOLUMES,
            f"{min(ratios):.2f} to 1" if len(ratios) == 1 else f"{min(ratios):.2f}–{max(ratios):.2f}",
        )
    elif job.of(VolumeReading):
        yield Station.VOLUMES, "begun"


def _train_notes(report: Report) -> Iterator[tuple[Station, str]]:
    job = report.job
    if job.mockups:
        yield Station.MOCKUP, f"mock-up {job.mockups[-1].key}"
    sides = report.cam.sides.values()
    if sides:
        yield (
            Station.CAM,
            ", ".join(f"{'ICL' if one.side is Side.INTAKE else 'ECL'} {one.shown_deg:.1f}" for one in sides),
        )
    if report.pushrods:
        yield Station.PUSHRODS, f"{len(report.pushrods)} tried"
    clayed = {reading.place.cylinder for reading in job.of(ClayReading) if not reading.record.struck}
    if clayed:
        yield Station.CLAY, f"{len(clayed)} of {job.engine.cylinders} cylinders"
    swept = {figure.place for figure in report.sweeps if figure.settled}
    if swept:
        yield Station.SWEEP, f"{len(swept)} valve{'s' if len(swept) > 1 else ''} swept"
    if report.tightest:
        yield Station.VERDICT, str(report.verdict)
    undone = sum(change.order is None for change in job.changes)
    if undone:
        yield Station.RIGHT, f"{undone} to do"
