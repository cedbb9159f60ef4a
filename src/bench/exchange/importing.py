"""A job becomes rows: a new build of the importer's shop, everything in its book with its record as it was."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

from django.db import transaction
from django.utils import timezone

from bench.builds.assemble import assemble, instruments_of_shop
from bench.builds.kinds import CamSteps, Done, LimitEdit, data_of, kind_of
from bench.builds.models import Build, Entry, MockUp
from bench.builds.services import locked
from bench.builds.summaries import settle
from bench.shops.models import Person
from mockup.changes.change import cam_swaps
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.faults import Fault, refuse
from mockup.job import Job, misplaced
from mockup.limits.sign_off import SignOff
from mockup.reading_kinds import READING_KINDS
from mockup.record import Reading


@transaction.atomic
def build_from(job: Job, by: Person) -> Build:
    """Write a job into the importer's shop. Raises FaultsError where rows could not hold it.

    Whoever imports wrote it into this book; who read it and when stays as the file says.
    """
    refuse(_cannot_hold(job))
    build = _build(job, by)
    build.save()
    MockUp.objects.bulk_create(_mockup(build, mockup, by) for mockup in job.mockups)
    choices = [
        *([job.final_gasket] if job.final_gasket else []),
        *job.final_shims,
        *(LimitEdit(limit=name, value=edit.value, reason=edit.reason) for name, edit in job.sheet.edits.items()),
        *(one for one in (job.running, job.pushrod_choice, job.parts_differ) if one),
        *_cam_lines(_first_cam(job)),
        *([CamSteps(steps_deg=job.cam_steps_deg)] if job.cam_steps_deg else []),
    ]
    Entry.objects.bulk_create(_line(build, item, by) for item in choices)
    _readings_and_changes(job, build, by)
    settle(build)
    return build


def write_readings(build: Build, readings: Sequence[Reading], by: Person) -> None:
    """Write readings out of a table into the book of a build, all of them or none.

    Whoever takes them in wrote them; who read them and when stays as the table says. Raises FaultsError where the
    engine has changed meanwhile so that it has no such place, or where one was read before a change that is done.
    """
    with locked(build) as now:
        done = max((change.order or 0 for change in assemble(now).changes), default=0)
        refuse(fault for reading in readings for fault in misplaced(reading, now.engine))
        refuse(
            Fault("after", f"One was read after {reading.after} changes; {done} are done. It stands in another engine.")
            for reading in readings
            if reading.after not in (0, done)
        )
        Entry.objects.bulk_create(_line(now, reading, by) for reading in readings)


def _readings_and_changes(job: Job, build: Build, by: Person) -> None:
    """In the order it happened: what was read before the first change, that change done, and so on."""
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
    """The cam it began with: what went in since is a change of its own."""
    swaps = cam_swaps(job.changes)
    return swaps[0].cam_was if swaps else job.camshaft


def _cam_lines(cam: Camshaft | None) -> list[CamCard | LobeTable]:
    return [*([cam.card] if cam.card else []), *cam.tables] if cam else []


def _known_since(job: Job) -> list[CamCard | LobeTable]:
    """Card and lobes of the cam that went in last, where they were typed or measured once it was in."""
    swaps = cam_swaps(job.changes)
    went_in = swaps[-1].cam if swaps else None
    return [one for one in _cam_lines(job.camshaft) if one not in _cam_lines(went_in)] if went_in else []


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
        # When it was calibrated is the shop's to keep; what it reads to must be the same.
        if mine is None or replace(mine, calibrated=()) != replace(job.instruments[key], calibrated=()):
            yield Fault(
                "instruments", f"Instrument “{key}” is not on this shop’s list with these figures. Add it first."
            )
    for mockup in job.mockups:
        if len(mockup.key) > 3:
            yield Fault("mockups", f"Mock-up “{mockup.key}”: at most 3 letters here.")


def _build(job: Job, by: Person) -> Build:
    assert by.shop is not None
    build = Build(shop=by.shop, name=job.name, unit=job.unit, deck_sign=job.deck_sign, sheet=job.sheet.key)
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
