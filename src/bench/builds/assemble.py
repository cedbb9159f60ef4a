"""Rows to the core's data: a build and everything read of it, as one Job, in a fixed number of queries."""

from collections.abc import Iterable
from typing import Any

from django.db.models import QuerySet

from bench.builds.models import Build, ClayReading, DeckReading, Entry, FinalGasket, LimitEdit, MockUp, VolumeReading
from mockup.checks.margins import Edit, LimitName
from mockup.checks.sheets import READY_MADE
from mockup.engine.block import Engine, Layout, Numbering
from mockup.engine.gasket import FinalGasket as CoreGasket
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Clay, LashAt, Lifters, Springs
from mockup.engine.mockup import MockUp as CoreMockUp
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.job import Job
from mockup.quantity.value import DeckSign, Unit
from mockup.readings import clay, deck, volumes
from mockup.readings.record import Record


def assemble(build: Build) -> Job:
    """The job of one build. Seven queries, however many readings there are."""
    return assemble_all([build])[0]


def assemble_all(builds: Iterable[Build]) -> list[Job]:
    """The jobs of several builds, in their order, in the same seven queries."""
    found = list(builds)
    rows = {model: _rows(model, found) for model in (DeckReading, ClayReading, VolumeReading, FinalGasket, LimitEdit)}
    mockups = _by_build(MockUp.objects.filter(build__in=found))
    return [
        _job(build, {model: per.get(build.pk, []) for model, per in rows.items()}, mockups.get(build.pk, []))
        for build in found
    ]


def _rows(model: type[Entry], builds: list[Build]) -> dict[int, list[Any]]:
    return _by_build(model.objects.filter(build__in=builds).select_related("by"))


def _by_build(rows: QuerySet[Any]) -> dict[int, list[Any]]:
    found: dict[int, list[Any]] = {}
    for row in rows:
        found.setdefault(row.build_id, []).append(row)
    return found


def _job(build: Build, rows: dict[type[Entry], list[Any]], mockups: list[MockUp]) -> Job:
    letters = {mockup.pk: mockup.letter for mockup in mockups}
    gaskets = [row for row in rows[FinalGasket] if not row.struck_reason]
    edits = {LimitName(row.limit): Edit(row.value, row.reason) for row in rows[LimitEdit] if not row.struck_reason}
    return Job(
        name=str(build),
        unit=Unit(build.unit),
        deck_sign=DeckSign(build.deck_sign),
        engine=engine_of(build),
        sheet=READY_MADE[build.sheet].edited(edits),
        final_gasket=_gasket(gaskets[-1]) if gaskets else None,
        mockups=tuple(mockup_of(mockup) for mockup in mockups),
        deck=tuple(_deck(row) for row in rows[DeckReading]),
        clay=tuple(_clay(row, letters) for row in rows[ClayReading]),
        volumes=tuple(_volume(row) for row in rows[VolumeReading]),
    )


def engine_of(build: Build) -> Engine:
    """The engine of a build."""
    return Engine(
        layout=Layout(build.layout),
        numbering=Numbering(build.numbering),
        cylinders=build.cylinders,
        bore_mm=build.bore_mm,
        stroke_mm=build.stroke_mm,
        rod_length_mm=build.rod_length_mm,
        pin_offset_mm=build.pin_offset_mm,
        rocker_ratio=build.rocker_ratio,
        intake=_row_of(build, Side.INTAKE),
        exhaust=_row_of(build, Side.EXHAUST),
    )


def _row_of(build: Build, side: Side) -> ValveRow:
    return ValveRow(
        count=getattr(build, f"{side}_count"),
        angle_deg=getattr(build, f"{side}_angle_deg"),
        cant_deg=getattr(build, f"{side}_cant_deg"),
        relief=Relief(getattr(build, f"{side}_relief")),
    )


def _gasket(row: FinalGasket) -> CoreGasket:
    return CoreGasket(name=row.name, compressed_mm=row.compressed_mm, bore_mm=row.bore_mm)


def mockup_of(row: MockUp) -> CoreMockUp:
    """A mock-up's conditions."""
    return CoreMockUp(
        key=row.letter,
        gasket_state=GasketState(row.gasket_state),
        gasket_mm=row.gasket_mm,
        bolts=Bolts(row.bolts),
        lifters=Lifters(row.lifters),
        springs=Springs(row.springs),
        lash_mm=row.lash_mm,
        lash_at=LashAt(row.lash_at),
        clay=Clay(row.clay),
        two_turns=row.two_turns,
    )


def _record(row: Entry) -> Record:
    by, at = row.read_by or row.by.shown_name, row.read_at or row.at.isoformat(timespec="seconds")
    return Record(typed=row.typed, by=by, at=at, struck=row.struck_reason)


def _deck(row: DeckReading) -> deck.DeckReading:
    return deck.DeckReading(
        key=f"deck-{row.pk}",
        record=_record(row),
        cylinder=row.cylinder,
        clearance_mm=row.clearance_mm,
        instrument=row.instrument,
    )


def _clay(row: ClayReading, letters: dict[int, str]) -> clay.ClayReading:
    return clay.ClayReading(
        key=f"clay-{row.pk}",
        record=_record(row),
        mockup=letters[row.mockup_id],
        place=clay.Place(row.cylinder, Side(row.side), row.valve),
        gap=clay.Gap(row.gap),
        thickness_mm=row.thickness_mm,
        instrument=row.instrument,
    )


def _volume(row: VolumeReading) -> volumes.VolumeReading:
    return volumes.VolumeReading(
        key=f"volume-{row.pk}",
        record=_record(row),
        part=volumes.Part(row.part),
        cc=row.cc,
        cylinder=row.cylinder,
        known=volumes.Known(row.known),
    )
