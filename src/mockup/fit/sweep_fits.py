"""The fit of every valve read by indicator, with the noise that its readings share."""

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from mockup.changes import affected
from mockup.changes.since import age_of
from mockup.engine.block import Engine
from mockup.engine.valves import Place, Side
from mockup.fit.approach import setting_in, train_in, train_when
from mockup.fit.closest_approach import Fit, by_turning
from mockup.fit.engine_history import EngineHistory
from mockup.fit.scatter import Scatter
from mockup.fit.swept_valve import SweepFigure
from mockup.fit.valve_model import DEGREED_U_DEG, PHASE_U_DEG, WHEEL_U_DEG, Sweep, can_tell_tdc, looks_shut
from mockup.motion.slider_crank import slider_crank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.value import Value, rectangular
from mockup.readings.instruments import Instrument, mean_correction
from mockup.readings.kinds import of_the_newest_engine
from mockup.readings.sweep import (
    SweepReading,
)


def sweep_figures(history: EngineHistory) -> list[SweepFigure]:
    """Return the figure of every valve in every mock-up with every instrument, in bench order.

    For a valve read again after its crown or deck was changed only the newer readings count.
    """
    job = history.job
    grouped: dict[_Key, list[SweepReading]] = {}
    for reading in of_the_newest_engine(job.of(SweepReading), job.engine, job.changes):
        place = reading.place
        # A drop may be older than the swept engine: they belong to one fit only if nothing changed in between.
        age = age_of(job.changes, reading.after, place.cylinder, job.engine, affected.FACE, place.side)
        key = (place, reading.mockup, reading.instrument, reading.by_turning, age)
        grouped.setdefault(key, []).append(reading)
    keys = sorted(grouped, key=lambda key: (key[0].bench_order, *key[1:]))
    begun = [_Begun(key, grouped[key], history) for key in keys]
    # One person, one instrument, one form: the noise shown by any valve applies to all of them.
    sheets: dict[str, Scatter] = {}
    for one in begun:
        if one.fit and not one.shut:
            sheets[one.instrument.key] = sheets.get(one.instrument.key, Scatter()) + one.fit.scatter
    return [one.figure(sheets.get(one.instrument.key, Scatter())) for one in begun]


def _train_as_it_stood(history: EngineHistory, side: Side, after: int, letter: str) -> ValveTrain | None:
    """Return the train in the mock-up with lash and other rockers; None without a lobe.

    A train that bends or bleeds down does not follow its lobe.
    """
    cam, mockup = history.cams_when(after).get(side), history.job.mockup(letter)
    if cam is None or mockup.is_loaded or mockup.bleeds:
        return None
    train = train_when(cam, history.job.engine, history.changes_of_the_cam(after), after)
    return train_in(train, setting_in(mockup, train.ratio, side))


_Key = tuple[Place, str, str, bool, int]


CHANGED_MM = 0.01


def crank_u_mm(engine: Engine, side: Side, t_deg: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the uncertainty of the travel at angles (n,) [deg] after TDC, shape (3, n) [mm].

    Rows: the stroke, the rod, and the lean of a side's valves where not stated.
    """
    sizes = engine.sizes
    said = replace(engine, stroke_mm=sizes.stroke_mm, rod_length_mm=sizes.rod_length_mm)
    known = slider_crank(said).travel_mm(t_deg)
    longer = (
        replace(said, stroke_mm=sizes.stroke_mm + CHANGED_MM),
        replace(said, rod_length_mm=sizes.rod_length_mm + CHANGED_MM),
    )
    u = (engine.u_of("stroke_mm"), engine.u_of("rod_length_mm"))
    off = [(slider_crank(one).travel_mm(t_deg) - known) / CHANGED_MM for one in longer]
    return np.array([off[0] * u[0], off[1] * u[1], known * engine.row(side).axial_factor_u])


class _Begun:
    """The readings of one valve with its fit begun, before the noise of the others is known."""

    def __init__(self, key: _Key, readings: Sequence[SweepReading], history: EngineHistory) -> None:
        self.place, self.mockup, named, self.by_turning, _ = key
        self.instrument = history.job.instruments[named]
        self.readings = readings
        self.swept = sorted((r for r in readings if not r.drop), key=lambda reading: reading.crank_deg)
        self.along = [reading.along_valve(self.instrument) for reading in self.swept]
        wheel = history.wheel_error_deg or Value(0.0, WHEEL_U_DEG)
        self.angles = [r.crank_deg - (0.0 if r.wheel_set else wheel.value) for r in self.swept]
        self.drop = _drop([reading for reading in readings if reading.drop], self.instrument)
        after = min(reading.after for reading in readings)
        self.sweep = self._sweep(history, after, wheel)
        self.shut = not self.by_turning and looks_shut(self.sweep, history.crank)
        self.tells_tdc = not self.by_turning and not self.shut and can_tell_tdc(self.sweep)
        train = _train_as_it_stood(history, self.place.side, after, self.mockup)
        self.modelled = train is not None and not self.by_turning
        self.fit = None if self.by_turning or self.shut else Fit(self.sweep, history.crank, train)

    def _sweep(self, history: EngineHistory, after: int, wheel: Value) -> Sweep:
        """Return the readings as arrays, with what is known of wheel, dial, cam and crank."""
        side = self.place.side
        cam = history.cams_when(after).get(side)
        drift_mm = max((reading.drift_mm for reading in self.swept), default=0.0)
        return Sweep(
            np.array(self.angles, dtype=float),
            np.array([value.value for value in self.along], dtype=float),
            np.array([value.u for value in self.along], dtype=float),
            history.engine.row(side).axial_factor,
            max(wheel.u, 0.1),
            # A zero that drifted is off by up to this much, equally in all readings after it.
            math.hypot(self.instrument.own_mm, rectangular(drift_mm)),
            self.drop,
            DEGREED_U_DEG if cam and cam.degreed else PHASE_U_DEG,
            side,
            partial(crank_u_mm, history.engine, side),
            _smallest_tilt_u_mm(self.swept or self.readings),
        )

    def figure(self, sheet: Scatter) -> SweepFigure:
        """Return the figure, with the noise that all readings of the form show."""
        return SweepFigure(
            place=self.place,
            mockup=self.mockup,
            instrument=self.instrument,
            closest=by_turning(self.sweep, sheet, _step_deg(self.swept))
            if self.by_turning
            else (self.fit.closest(sheet) if self.fit else None),
            readings=(*self.swept, *(reading for reading in self.readings if reading.drop)),
            angles_deg=tuple(self.angles),
            along=tuple(self.along),
            sweep=self.sweep,
            shut=self.shut,
            drop=self.drop,
            by_turning=self.by_turning,
            modelled=self.modelled,
            tells_tdc=self.tells_tdc,
        )


def _step_deg(turned: Sequence[SweepReading]) -> float | None:
    """Return the turning step of the smallest reading; of equal ones the least favourable [deg]."""
    least = min(reading.clearance_mm for reading in turned)
    steps = [reading.turned_step_deg for reading in turned if reading.clearance_mm == least]
    return None if None in steps else max(step for step in steps if step is not None)


def _smallest_tilt_u_mm(readings: Sequence[SweepReading]) -> float:
    """Return the tilt uncertainty of the smallest reading, nearest to the closest point [mm]."""
    return min(readings, key=lambda reading: reading.clearance_mm).tilt_u_mm


def _drop(readings: Sequence[SweepReading], instrument: Instrument) -> Value | None:
    """Return the mean of the drop readings [mm]; the instrument's own accuracy is common to all."""
    if not readings:
        return None
    along = [reading.along_valve(instrument) for reading in readings]
    shared = math.hypot(max(one.tilt_u_mm for one in readings), rectangular(max(one.drift_mm for one in readings)))
    return mean_correction("", [one.value for one in along], max(one.u for one in along), shared).delta
