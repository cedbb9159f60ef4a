"""Import a job as rows: a new build in the importer's shop, with every record as it was."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.utils import timezone

from mockup.base.faults import Fault, refuse
from mockup.changes.since import cam_swaps
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.job import Job, misplaced
from mockup.limits.sign_off import SignOff
from mockup.readings.kinds import READING_KINDS
from mockup.readings.record import Reading
from web.builds.assemble import assemble, instruments_of_shop
from web.builds.entry_kinds import CamSteps, Done, LimitEdit, data_of, kind_of
from web.builds.models import Build, Entry, MockUp
from web.builds.services import locked
from web.builds.summaries import settle
from web.shops.models import Person


@transaction.atomic
def build_from(job: Job, by: Person) -> Build:
    """Write a job into the importer's shop. Raises FaultsError where rows could not hold it.

    The importer is the author of the log entries; who read a value and when stays as in the file.
    """
    refuse(_cannot_hold(job))
    build = _build(job, by)
    build.save()
    MockUp.objects.bulk_create(_mockup(build, mockup, by) for mockup in job.mockups)
    choices = [
        *([job.final_gasket] if job.final_gasket else []),
        *job.final_shims,
        *(LimitEdit(limit=name, value=edit.value, reason=edit.reason) for name, edit in job.limits.edits.items()),
        *(one for one in (job.running, job.hot_growth, job.makers_chart, job.pushrod_choice, job.parts_differ) if one),
        *_cam_rows(_first_cam(job)),
        *([CamSteps(steps_deg=job.cam_steps_deg)] if job.cam_steps_deg else []),
    ]
    Entry.objects.bulk_create(_line(build, item, by) for item in choices)
    _readings_and_changes(job, build, by)
    settle(build)
    return build


def write_readings(build: Build, readings: Sequence[Reading], by: Person) -> None:
    """Write readings from a table into the log of a build, all of them or none.

    The importer is the author; who read them and when stays as in the table. Raises FaultsError where the engine has
    changed meanwhile and has no such place, or where one was read before a change that is done.
    """
    with locked(build) as now:
        done = max((change.order or 0 for change in assemble(now).changes), default=0)
        refuse(fault for reading in readings for fault in misplaced(reading, now.engine))
        refuse(
            Fault("after", f"One was read after {reading.after} changes, but {done} are done: it is of another engine.")
            for reading in readings
            if reading.after not in (0, done)
        )
        Entry.objects.bulk_create(_line(now, reading, by) for reading in readings)


def _readings_and_changes(job: Job, build: Build, by: Person) -> None:
    """Write in the order it happened: what was read before a change, then that change."""
    decided = {change.order: Entry(**_row(build, change, by)) for change in job.changes if change.order}
    waiting = [Entry(**_row(build, change, by)) for change in job.changes if not change.order]
    Entry.objects.bulk_create([*decided.values(), *waiting])
    lines: list[Entry] = []
    for order in sorted({0, *decided, *(reading.after for reading in job.readings)}):
        if order in decided:
            lines.append(_line(build, Done(change=decided[order].pk), by))
        lines += [_line(build, reading, by) for reading in job.readings if reading.after == order]
    lines += [_line(build, item, by) for item in _known_since(job)]
    Entry.objects.bulk_create([*lines, *(_line(build, one, by) for one in job.sign_offs)])


def _first_cam(job: Job) -> Camshaft | None:
    """Return the original cam; later ones went in by changes of their own."""
    swaps = cam_swaps(job.changes)
    return swaps[0].cam_was if swaps else job.camshaft


def _cam_rows(cam: Camshaft | None) -> list[CamCard | LobeTable]:
    return [*([cam.card] if cam.card else []), *cam.tables] if cam else []


def _known_since(job: Job) -> list[CamCard | LobeTable]:
    """Return card and lobes of the last cam, where they were entered after it went in."""
    swaps = cam_swaps(job.changes)
    went_in = swaps[-1].cam if swaps else None
    return [one for one in _cam_rows(job.camshaft) if one not in _cam_rows(went_in)] if went_in else []


def _cannot_hold(job: Job) -> Iterator[Fault]:
    ours = instruments_of_shop()
    used = {
        getattr(reading, "instrument", "")
        for kind in READING_KINDS
        if kind.has_instrument
        for reading in job.of(kind.core)
    }
    for key in sorted(used):
        mine = ours.get(key)
        # Its calibrations belong to the shop; its reading step must be the same.
        if mine is None or replace(mine, calibrated=()) != replace(job.instruments[key], calibrated=()):
            yield Fault(
                "instruments", f"Instrument “{key}” is not on this shop’s list with these figures. Add it first."
            )
    for mockup in job.mockups:
        if len(mockup.key) > 3:
            yield Fault("mockups", f"Mock-up “{mockup.key}”: at most 3 letters here.")


def _build(job: Job, by: Person) -> Build:
    assert by.shop is not None
    build = Build(shop=by.shop, name=job.name, unit=job.unit, deck_sign=job.deck_sign, limits=job.limits.key)
    build.checking = job.checking
    build.keep(job.engine)
    return build


def _mockup(build: Build, mockup: CoreMockUp, by: Person) -> MockUp:
    row = MockUp(build=build, letter=mockup.key, by=by)
    row.keep(mockup)
    return row


def _line(build: Build, item: Any, by: Person) -> Entry:
    return Entry(**_row(build, item, by))


def _row(build: Build, item: Any, by: Person) -> dict[str, Any]:
    row = {"build": build, "kind": kind_of(item), "data": data_of(item), "by": by}
    if not isinstance(item, Reading | SignOff):
        return row
    record = item.record
    struck = {"struck_reason": record.struck, "struck_by": by, "struck_at": timezone.now()} if record.struck else {}
    return {**row, "typed": record.typed, "read_by": record.by, "read_at": record.at, **struck}
