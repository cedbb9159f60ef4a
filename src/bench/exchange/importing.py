"""A job becomes rows: a new build of the importer's shop, every reading with its record as it was."""

from dataclasses import asdict
from typing import Any

from django.db import transaction
from django.utils import timezone

from bench.builds.models import Build, ClayReading, DeckReading, FinalGasket, LimitEdit, MockUp, VolumeReading
from bench.shops.models import Person
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.valves import Side
from mockup.faults import Fault, refuse
from mockup.job import Job
from mockup.readings.instruments import DEFAULT_INSTRUMENTS
from mockup.readings.record import Reading


@transaction.atomic
def build_from(job: Job, by: Person) -> Build:
    """Write a job into the importer's shop. Raises FaultsError where rows could not hold it.

    Whoever imports wrote it into this book; who read it and when stays as the file says.
    """
    refuse(_cannot_hold(job))
    build = _build(job, by)
    build.save()
    mockups = {mockup.key: _mockup(build, mockup, by) for mockup in job.mockups}
    MockUp.objects.bulk_create(mockups.values())
    DeckReading.objects.bulk_create(
        DeckReading(
            cylinder=reading.cylinder,
            clearance_mm=reading.clearance_mm,
            instrument=reading.instrument,
            **_entry(build, reading, by),
        )
        for reading in job.deck
    )
    ClayReading.objects.bulk_create(
        ClayReading(
            mockup=mockups[reading.mockup],
            cylinder=reading.place.cylinder,
            side=reading.place.side,
            valve=reading.place.number,
            gap=reading.gap,
            thickness_mm=reading.thickness_mm,
            instrument=reading.instrument,
            **_entry(build, reading, by),
        )
        for reading in job.clay
    )
    VolumeReading.objects.bulk_create(
        VolumeReading(
            part=reading.part,
            cylinder=reading.cylinder,
            cc=reading.cc,
            known=reading.known,
            **_entry(build, reading, by),
        )
        for reading in job.volumes
    )
    _choices(job, build, by)
    return build


def _choices(job: Job, build: Build, by: Person) -> None:
    gasket = job.final_gasket
    if gasket:
        FinalGasket.objects.create(
            build=build, by=by, name=gasket.name, compressed_mm=gasket.compressed_mm, bore_mm=gasket.bore_mm
        )
    LimitEdit.objects.bulk_create(
        LimitEdit(build=build, by=by, limit=name, value=edit.value, reason=edit.reason)
        for name, edit in job.sheet.edits.items()
    )


def _cannot_hold(job: Job) -> list[Fault]:
    own = [key for key, instrument in job.instruments.items() if DEFAULT_INSTRUMENTS.get(key) != instrument]
    faults = [Fault("instruments", f"Instruments of one’s own ({key}) cannot be imported yet.") for key in own]
    faults += [Fault("mockups", f"Mock-up “{m.key}”: at most 3 letters here.") for m in job.mockups if len(m.key) > 3]
    return faults


def _build(job: Job, by: Person) -> Build:
    assert by.shop is not None
    engine = job.engine
    rows = {
        f"{side}_{field}": getattr(engine.row(side), field)
        for side in Side
        for field in ("count", "angle_deg", "cant_deg", "relief")
    }
    return Build(
        shop=by.shop,
        name=job.name,
        unit=job.unit,
        deck_sign=job.deck_sign,
        sheet=job.sheet.key,
        layout=engine.layout,
        numbering=engine.numbering,
        cylinders=engine.cylinders,
        bore_mm=engine.bore_mm,
        stroke_mm=engine.stroke_mm,
        rod_length_mm=engine.rod_length_mm,
        pin_offset_mm=engine.pin_offset_mm,
        rocker_ratio=engine.rocker_ratio,
        **rows,
    )


def _mockup(build: Build, mockup: CoreMockUp, by: Person) -> MockUp:
    conditions = {name: value for name, value in asdict(mockup).items() if name != "key"}
    return MockUp(build=build, letter=mockup.key, by=by, **conditions)


def _entry(build: Build, reading: Reading, by: Person) -> dict[str, Any]:
    record = reading.record
    struck = {"struck_reason": record.struck, "struck_by": by, "struck_at": timezone.now()} if record.struck else {}
    return {"build": build, "by": by, "typed": record.typed, "read_by": record.by, "read_at": record.at, **struck}
