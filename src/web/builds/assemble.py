"""Rows to core data: a build, mock-ups and log as one Job, in a fixed number of queries."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from django.db.models import QuerySet

from mockup.base.faults import FaultsError, refuse
from mockup.changes.change import Change, ChangeKind
from mockup.changes.since import cam_put_in, cam_swaps, gasket_put_in
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.engine.block import Engine
from mockup.engine.cam import CamCard, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.makers_chart import MakersChart
from mockup.engine.parts import PartsDiffer
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.running import HotGrowth, Running
from mockup.engine.valves import Side
from mockup.job import Job, misplaced
from mockup.limits.limit_set import Edit, LimitName
from mockup.limits.schools import READY_MADE
from mockup.limits.sign_off import SignOff
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, Instrument
from mockup.readings.record import Reading, Record
from web.builds.entry_kinds import ENTRY_KINDS, CamSteps, Done, LimitEdit, is_reading, item_of
from web.builds.models import Build, Entry, MockUp
from web.builds.models.build import WILL_NOT_DO, UnreadableError
from web.shelf.models import ShelfInstrument
from web.shops import request_cache
from web.shops.clock import stamp


def assemble(build: Build) -> Job:
    """Return the job of one build. Four queries for a log of any length. Raises UnreadableError."""
    return job_of(build, log_of([build]), MockUp.objects.filter(build=build), instruments_of_shop())


@dataclass(frozen=True, slots=True)
class InTheWay:
    """An entry that keeps a build from being read, and why."""

    entry: Entry
    why: str


def in_the_way(build: Build, log: Iterable[Entry]) -> list[InTheWay]:
    """Return a log's valid entries without a place in the engine, or unreadable."""
    found = []
    for entry in log:
        if entry.struck_reason:
            continue
        try:
            refuse(misplaced(_item(entry), build.engine))
        except WILL_NOT_DO as error:
            faults = error.faults if isinstance(error, FaultsError) else ()
            found.append(InTheWay(entry, " ".join(fault.message for fault in faults) or "It cannot be read."))
    return found


def _item(entry: Entry) -> Any:
    kept = {"key": entry.key} if is_reading(entry.kind) or entry.kind in ("change", "sign-off") else {}
    return item_of(entry.kind, entry.data, **kept)


def log_of(builds: Iterable[Build]) -> QuerySet[Entry]:
    """Return the entries of some builds in the order they were written, with their authors."""
    # A few people write hundreds of entries: prefetch each person once instead of joining every row.
    found: QuerySet[Entry] = Entry.objects.filter(build__in=builds).prefetch_related("by", "struck_by")
    return found


def instruments_of_shop() -> dict[str, Instrument]:
    """Return the built-in instruments and the shop's own, which replace equal keys."""
    return {**DEFAULT_INSTRUMENTS, **{row.key: row.core() for row in own_instruments()}}


def own_instruments() -> list[ShelfInstrument]:
    """Return the shop's own instruments with calibrations; read once a request."""
    return request_cache.kept("instruments", lambda: list(ShelfInstrument.objects.prefetch_related("calibrations")))


_HELD_WHOLE = {
    Running: "running",
    HotGrowth: "hot_growth",
    MakersChart: "makers_chart",
    CamCard: "cam_card",
    PushrodChoice: "pushrods",
    PartsDiffer: "parts_differ",
}
"""The pieces of which the newest valid one simply holds, by the field of ``_Stated``."""


@dataclass
class _Stated:
    """What the log states, read from its first entry to its last."""

    engine: Engine
    readings: list[Reading] = field(default_factory=list)
    gasket: FinalGasket | None = None
    shims: dict[int | None, BaseShims] = field(default_factory=dict)
    edits: dict[LimitName, Edit] = field(default_factory=dict)
    changes: dict[str, Change] = field(default_factory=dict)
    running: Running | None = None
    hot_growth: HotGrowth | None = None
    makers_chart: MakersChart | None = None
    cam_card: CamCard | None = None
    tables: dict[Side, LobeTable] = field(default_factory=dict)
    cam_steps: tuple[float, ...] = ()
    parts_differ: PartsDiffer | None = None
    pushrods: PushrodChoice | None = None
    sign_offs: list[SignOff] = field(default_factory=list)
    order: int = 0

    def read(self, entry: Entry) -> None:
        if is_reading(entry.kind):
            reading = item_of(entry.kind, entry.data, key=entry.key, after=self.order, record=_record(entry))
            if not (entry.struck_reason and misplaced(reading, self.engine)):
                self.readings.append(reading)
        elif entry.kind == "sign-off":
            self.sign_offs.append(item_of(entry.kind, entry.data, key=entry.key, record=_record(entry)))
        elif not ENTRY_KINDS[entry.kind].of_the_job:
            return
        elif not entry.struck_reason:
            named = {"key": entry.key} if entry.kind == "change" else {}
            self._choose(entry.key, item_of(entry.kind, entry.data, **named))

    def _choose(self, key: str, item: Any) -> None:
        match item:
            case FinalGasket():
                if self.gasket:
                    self._changed(key, GASKET_CHANGED, item.compressed_mm - self.gasket.compressed_mm)
                self.gasket = item
            case BaseShims():
                old = self.shims.get(item.cylinder)
                if old:
                    self._changed(key, SHIMS_CHANGED, item.total_mm - old.total_mm, item.cylinder)
                self.shims[item.cylinder] = item
            case LimitEdit():
                self.edits[item.limit] = Edit(item.value, item.reason)
            case Change():
                self.changes[key] = item
            case Done():
                self._done(f"change-{item.change}")
            case LobeTable():
                self.tables[item.side] = item
            case CamSteps():
                self.cam_steps = item.steps_deg
            case _:
                setattr(self, _HELD_WHOLE[type(item)], item)

    def _changed(self, key: str, kind: ChangeKind, by_mm: float, cylinder: int | None = None) -> None:
        if by_mm:
            self.order += 1
            bank = next((at for at, bank in enumerate(self.engine.banks) if cylinder in bank), None)
            self.changes[key] = Change(key=key, kind=kind, order=self.order, bank=bank, front_mm=by_mm, rear_mm=by_mm)

    def _done(self, key: str) -> None:
        if key not in self.changes:
            return
        self.order += 1
        swaps = cam_swaps(self.changes.values())
        was = Camshaft.of_an_engine(self.cam_card, tuple(self.tables.values()), swaps[-1].cam if swaps else None)
        change = cam_put_in(gasket_put_in(self.changes[key], self.gasket), was)
        self.changes[key] = replace(change, order=self.order)
        if change.gasket:
            self.gasket = change.gasket
        if change.cam:
            self.cam_card, self.tables = change.cam.card, {table.side: table for table in change.cam.tables}
        if change.kind is SHIMS_CHANGED:
            # Marking it done also recorded the new shims as chosen, and that already counts as the change.
            self.changes[key] = replace(change, order=self.order, front_mm=0.0, rear_mm=0.0)


def job_of(build: Build, log: Iterable[Entry], mockups: Iterable[MockUp], instruments: Mapping[str, Instrument]) -> Job:
    """Return the job of a build from its rows. Raises UnreadableError."""
    try:
        return _job_of(build, log, mockups, instruments)
    except WILL_NOT_DO as error:
        raise UnreadableError(build, f"{type(error).__name__}: {error}") from error


def _job_of(
    build: Build, log: Iterable[Entry], mockups: Iterable[MockUp], instruments: Mapping[str, Instrument]
) -> Job:
    stated = _Stated(build.engine)
    for entry in log:
        stated.read(entry)
    return Job(
        name=str(build),
        unit=Unit(build.unit),
        deck_sign=DeckSign(build.deck_sign),
        engine=stated.engine,
        limits=READY_MADE[build.limits].edited(stated.edits),
        final_gasket=stated.gasket,
        final_shims=tuple(stated.shims.values()),
        changes=tuple(stated.changes.values()),
        running=stated.running,
        hot_growth=stated.hot_growth,
        makers_chart=stated.makers_chart,
        mockups=tuple(mockup.core for mockup in mockups),
        instruments=instruments,
        cam_card=stated.cam_card,
        lobe_tables=tuple(stated.tables.values()),
        cam_steps_deg=stated.cam_steps,
        pushrod_choice=stated.pushrods,
        parts_differ=stated.parts_differ,
        sign_offs=tuple(stated.sign_offs),
        readings=tuple(stated.readings),
        checking=build.checking,
    )


def _record(row: Entry) -> Record:
    by, at = row.read_by or row.by.shown_name, row.read_at or stamp(row.read)
    return Record(typed=row.typed, by=by, at=at, struck=row.struck_reason)
