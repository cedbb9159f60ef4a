"""The engine at each time something was read, and as it will run.

A batch of engines uses the same functions: ``changed`` adds changes whose amounts may be arrays, one for each engine,
shape (m,).
"""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Protocol, Self

import numpy as np

from mockup.changes.change import Change
from mockup.changes.since import as_changed, cam_swaps, done_since, last_order, ratio_at
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, LASH_CHANGED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.engine.block import Engine
from mockup.engine.cam import LiftAt, LobeTable
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import UNKNOWN_GASKET, GasketState, shims_under
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side
from mockup.fit.approach import Approach, Setting
from mockup.fit.cam_report import CamReport, SideCam, cam_report
from mockup.fit.shifts import shift_correction
from mockup.job import Job
from mockup.motion.slider_crank import SliderCrank, slider_crank
from mockup.quantity.corrections import Correction
from mockup.quantity.value import Value
from mockup.readings.cam_timing import DegreeReading, centrelines
from mockup.readings.clay import ClayKey, ClayReading, clay_sets
from mockup.readings.deck import DeckReading
from mockup.readings.record import standing
from mockup.readings.tdc import TdcFigure, TdcReading, tdc_figure


class Sealing(Protocol):
    """A final gasket, or many: compressed thickness and bore [mm], numbers or arrays (m,)."""

    @property
    def compressed_mm(self) -> float:
        """Compressed thickness [mm]."""
        ...

    @property
    def bore_mm(self) -> float | None:
        """Bore [mm], None where not stated."""
        ...

    @property
    def thickness(self) -> Value:
        """Compressed thickness with its u [mm]."""
        ...


class EngineHistory:
    """A job's engine through its changes. Each property is computed once, when it is first used."""

    def __init__(self, job: Job, more: tuple[Change, ...] = (), measured: "Self | None" = None) -> None:
        self.job = job
        self.more = more
        self.measured = measured or self
        self._shifts: dict[tuple[Approach, Setting, Setting], Correction] = {}
        self._earlier: dict[int, Mapping[Side, SideCam]] = {}

    def changed(self, changes: Iterable[Change]) -> "Self":
        """Return the history with more changes after all others. Readings stay as they were taken."""
        begun = last_order(self.changes) + 1
        done = (replace(change, order=begun + at, supposed=True) for at, change in enumerate(changes))
        return type(self)(self.job, (*self.more, *done), self.measured)

    @cached_property
    def clay(self) -> Mapping[ClayKey, tuple[ClayReading, ...]]:
        """The clay of every valve by gap and mock-up, thinnest first."""
        if self.measured is not self:
            return self.measured.clay
        return clay_sets(self.job.of(ClayReading), self.job.engine, self.job.changes)

    @cached_property
    def changes(self) -> tuple[Change, ...]:
        """Every change of the engine, those of the job first."""
        return (*self.job.changes, *self.more)

    @cached_property
    def crank(self) -> SliderCrank:
        """The slider-crank of the engine."""
        return slider_crank(self.job.engine)

    @cached_property
    def engine(self) -> Engine:
        """The engine as it is now: the job's, with the done changes."""
        return as_changed(self.job.engine, self.job.changes)

    @cached_property
    def ratio(self) -> float:
        """The rocker ratio it will run with [1]."""
        more: float = sum(change.amount for change in self.more if change.kind is ROCKERS_CHANGED)
        return self.engine.ratio + more

    def ratio_when(self, after: int) -> float:
        """Return the rocker ratio [1] when something was read after the change ``after``."""
        return ratio_at(self.job.engine, self.job.changes, after)

    def stated_ratio_when(self, after: int) -> float | None:
        """Like ``ratio_when`` [1]; None where the engine's ratio is not stated."""
        return None if self.job.engine.rocker_ratio is None else self.ratio_when(after)

    @cached_property
    def final(self) -> Sealing | None:
        """The gasket it will run with, None while none is chosen."""
        chosen: list[Sealing] = [change.gasket for change in self.more if change.gasket is not None]
        return chosen[-1] if chosen else self.job.final_gasket

    def gasket_more(self, mockup: MockUp, after: int) -> Value | None:
        """Return how much thicker the final gasket is than the one of a reading [mm].

        ``after``: the order of the last change before it. None while no final gasket is chosen.
        """
        stood = mockup.gasket
        if stood is None:
            # The mock-up had the final gasket of its day; later choices are known relative to that one.
            since = (one.front_mm for one in done_since(self.changes, after) if one.kind is GASKET_CHANGED)
            return mockup.against_final + Value(sum(since))
        if self.final is not None:
            return self.final.thickness + stood.scaled(-1)
        return UNKNOWN_GASKET + stood.scaled(-1) if mockup.gasket_state is GasketState.UNKNOWN else None

    def shims_mm(self, cylinder: int) -> float | None:
        """Return the base shims under one barrel as it will run [mm]; None without a choice."""
        if not self.job.engine.separate_barrels:
            return None
        more = [change for change in self.more if change.kind is SHIMS_CHANGED]
        chosen = shims_under(self.job.final_shims, cylinder)
        if not more:
            return chosen.total_mm if chosen else None
        raised: float = sum(one.at_mm(cylinder, self.engine) for one in more if one.touches(cylinder, self.engine))
        return shims_now(self.job, cylinder) + raised

    @cached_property
    def chosen_mm(self) -> float | None:
        """The length of the pushrods it will run with [mm], None while none is chosen."""
        choice = self.job.pushrods_chosen
        if choice is None or choice.chosen_mm is None:
            return None
        more: float = sum(change.amount for change in self.more if change.kind is PUSHRODS_CHANGED)
        return choice.chosen_mm + more

    @cached_property
    def wheel(self) -> TdcFigure | None:
        """The error of the degree wheel, None where TDC was not found."""
        return tdc_figure(self.job.of(TdcReading), self.crank, self.job.instruments)

    @property
    def wheel_error_deg(self) -> Value | None:
        """The wheel's error [deg], None where TDC was not found."""
        return self.wheel.error_deg if self.wheel else None

    @cached_property
    def cam(self) -> CamReport:
        """The cam with the job's changes; supposed changes are carried from there."""
        if self.measured is not self:
            return self.measured.cam
        swaps = cam_swaps(self.job.changes)
        return self._cam_report(self.job.camshaft, swaps, len(swaps))

    def _cam_report(self, cam: Camshaft | None, swaps: Sequence[Change], nth: int) -> CamReport:
        """Return the ``nth`` cam of the engine at its end, with only its own degreeing and moves."""
        job = self.job
        begun, ended = _in_the_engine(swaps, nth)
        done = [one for one in job.changes if one.order is not None and one.order < ended]
        mine = [reading for reading in job.of(DegreeReading) if begun <= reading.after < ended]
        # A cam's position and its lash went out with it.
        own = (CAM_MOVED, LASH_CHANGED)
        moved = [one for one in done if one.kind not in own or (one.order or 0) > begun]
        degreed = centrelines(mine, self.wheel_error_deg, job.engine, moved)
        tables = {table.side: table for table in cam.tables} if cam else {}
        said = {side: at for side in Side if cam and (at := cam.stands_deg(side)) is not None}
        return cam_report(job.engine, cam.card if cam else None, tables, degreed, job.cam_steps_deg, moved, said)

    def swapped_since(self, after: int) -> bool:
        """Return whether another cam went in since the change ``after``."""
        return bool(cam_swaps(done_since(self.job.changes, after)))

    def cams_when(self, after: int) -> Mapping[Side, SideCam]:
        """Return the cam of each side whose valve lift is known, as it was when something was read."""
        if not self.swapped_since(after):
            return self.cams
        if self.measured is not self:
            return self.measured.cams_when(after)
        swaps = cam_swaps(self.job.changes)
        nth = next(at for at, swap in enumerate(swaps) if (swap.order or 0) > after)
        if nth not in self._earlier:
            was = swaps[nth].cam_was
            sides = self._cam_report(was, swaps, nth).sides
            self._earlier[nth] = self._with_lift(sides, was.tables if was else ())
        return self._earlier[nth]

    def changes_of_the_cam(self, after: int) -> list[Change]:
        """Return the changes included in a reading's cam: those before another cam went in."""
        swaps = cam_swaps(done_since(self.job.changes, after))
        ended = (swaps[0].order or 0) if swaps else math.inf
        return [one for one in self.job.changes if one.order is not None and one.order < ended]

    @property
    def cams(self) -> Mapping[Side, SideCam]:
        """The cam of each side whose valve lift is known, by lobe and ratio or at the valve."""
        return self._with_lift(self.cam.sides, self.job.lobe_tables)

    def _with_lift(self, sides: Mapping[Side, SideCam], tables: Iterable[LobeTable]) -> Mapping[Side, SideCam]:
        if self.job.engine.rocker_ratio is not None:
            return sides
        measured = {table.side for table in tables if table.at is LiftAt.VALVE}
        return {side: one for side, one in sides.items() if side in measured}

    @property
    def shift(self) -> Callable[[Approach, Setting, Setting, str], Correction]:
        """What the closest point gains between two settings of a train, as a correction [mm]."""
        return self.measured.kept_shift

    def kept_shift(self, of: Approach, before: Setting, after: Setting, words: str) -> Correction:
        """Like ``shift_correction``, but cached.

        Clay valves share one approach, and a search repeats the same settings.
        """
        if not after.is_batch:
            return shift_correction(of, before, after, words)
        key = (of, before, after)
        if key not in self._shifts:
            self._shifts[key] = shift_correction.__wrapped__(of, before, after, words)
        return self._shifts[key]

    def moved_by_the_lobe(self, after: int, side: Side) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        """Return which engines of a batch differ in cam or rockers since a reading, shape (m,)."""
        since = [change for change in done_since(self.more, after) if change.is_of(side)]
        moved = [np.asarray(one.amount) != 0 for one in since if one.kind in (CAM_MOVED, ROCKERS_CHANGED)]
        return np.logical_or.reduce(np.broadcast_arrays(*moved)) if moved else np.zeros(1, dtype=bool)


def shims_now(job: Job, cylinder: int) -> float:
    """Return the shims now under a barrel [mm]: chosen, else as read, else the last mock-up's."""
    chosen = shims_under(job.final_shims, cylinder)
    if chosen:
        return chosen.total_mm
    read = [reading.shims_mm for reading in standing(job.of(DeckReading)) if reading.cylinder == cylinder]
    return read[-1] if read else (job.mockups[-1].shims_mm if job.mockups else 0.0)


def _in_the_engine(swaps: Sequence[Change], nth: int) -> tuple[int, float]:
    """Return the orders of the changes that brought the ``nth`` cam in and out.

    They are 0 and infinite where none did.
    """
    begun = (swaps[nth - 1].order or 0) if nth else 0
    ended = (swaps[nth].order or 0) if nth < len(swaps) else math.inf
    return begun, ended
