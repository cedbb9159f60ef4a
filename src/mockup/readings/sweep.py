"""Indicator and feeler readings of one valve at crank angles about overlap TDC, and the drop with both valves shut.

A dial whose plunger rests on the retainer's flat, tilted b to the valve: true = reading x cos b, u = reading sin b u_b.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from mockup.changes.change import age_of
from mockup.changes.kind import ChangeKind, Told, Touched
from mockup.engine.block import Engine
from mockup.engine.valves import Place, Side
from mockup.faults import Fault, refuse
from mockup.instruments import INDICATOR, Instrument, mean_rung
from mockup.motion.slider_crank import slider_crank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.echo import Asked
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import format_both
from mockup.quantity.typed import LengthError, parse_bench_length
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.quantity.value import Unit, Value, rectangular
from mockup.reading_kinds import of_the_newest_engine, reading_kind
from mockup.readings.approach import setting_in, train_in, train_when
from mockup.readings.closest import Fit, Scatter, by_turning
from mockup.readings.closest_point import Closest
from mockup.readings.valve_model import DEGREED_U_DEG, PHASE_U_DEG, WHEEL_U_DEG, Sweep, can_tell_tdc, looks_shut
from mockup.record import Reading
from mockup.stations import Station

if TYPE_CHECKING:
    from mockup.readings.basis import Basis


FURTHEST_DEG = 90.0
LARGEST_MM = 40.0
SURPRISING_MM = 0.9 * 25.4
TILT_U_DEG = 3.0
"""How truly a dial's tilt is judged by eye: common practice, no source."""


DROP = Touched(
    "drop",
    name="DROP",
    order=25,
    takes=Touched.FACE.takes,
    moved_by={
        kind: effect
        for kind in ChangeKind
        if (effect := kind.effect_on(Touched.FACE)) and effect is not Told.BY_THE_LOBE
    },
    left_by=tuple(kind for kind in ChangeKind if kind.effect_on(Touched.FACE) in (None, Told.BY_THE_LOBE)),
)
"""How far the closed valve could be pushed at TDC: what moves the face moves it, but for what the lobe tells."""


def _echo(asked: Asked) -> str:
    words, _, length = asked.text.strip().rpartition(" ")
    if not words:
        raise LengthError("Type the angle and then the reading, as in 9 ATDC 94.")
    # Within a quarter turn of TDC neither BDC can be meant.
    angle = format_crank_angle(parse_crank_angle(words, 180.0))
    return f"{angle}: {format_both(parse_bench_length(length, asked.unit), asked.unit)}"


def _written(reading: "SweepReading", typed: str, _unit: Unit) -> str:
    if reading.by_turning:
        return f"smallest by turning {typed}"
    return f"{'the drop' if reading.drop else format_crank_angle(reading.crank_deg)} {typed}"


@reading_kind(
    name="sweep",
    listed="sweeps",
    words="indicator",
    station=Station.SWEEP,
    # The drop is of the engine and not of its cam: another cam leaves it as it was read.
    of=lambda reading: (reading.place, reading.drop),
    reads=lambda reading: DROP if reading.drop else Touched.FACE,
    what=_written,
    echo={"sweep": _echo},
)
@dataclass(frozen=True, slots=True, kw_only=True)
class SweepReading(Reading):
    """One clearance along the valve's axis, as read, at one crank angle in the mock-up ``mockup``.

    ``crank_deg`` about overlap TDC [deg], -90 to 90; a ``drop`` is read at firing TDC with both valves shut, whatever
    its angle; ``by_turning``: the smallest that turning the crank by hand found, at an angle that nobody read.
    ``turned_step_deg``: how the crank was turned for that: in such steps, 0 past the smallest and back, None where
    nobody said [deg], 0 to 30.
    ``clearance_mm`` [mm], 0 to 40; ``tilt_deg`` of the dial to the valve [deg], 0 to 40; ``drift_mm``: how far the
    dial's zero had moved when it was looked at again [mm]. ``wheel_set``: the wheel had been set right. Raises
    FaultsError.
    """

    mockup: Name
    place: Place
    crank_deg: float = 0.0
    clearance_mm: Mm
    drop: bool = False
    by_turning: bool = False
    turned_step_deg: float | None = None
    instrument: Name = INDICATOR
    tilt_deg: float = 0.0
    drift_mm: Mm = 0.0
    wheel_set: bool = True

    def __post_init__(self) -> None:
        found = []
        if not -FURTHEST_DEG <= self.crank_deg <= FURTHEST_DEG:
            found.append(Fault("crank_deg", "Within 90 degrees of overlap TDC: no valve is near its piston beyond."))
        if self.drop and self.by_turning:
            found.append(Fault("by_turning", "The drop is read with both valves shut; nothing is found by turning."))
        if self.turned_step_deg is not None and not 0 <= self.turned_step_deg <= 30:
            found.append(Fault("turned_step_deg", "Steps of 0 to 30 degrees; 0 for past the smallest and back."))
        if not 0 <= self.clearance_mm <= LARGEST_MM:
            found.append(Fault("clearance_mm", "A clearance of 0 to 40 mm (1.57 in). Is the unit right?"))
        if not 0 <= self.tilt_deg <= 40:
            found.append(Fault("tilt_deg", "A tilt of 0 to 40 degrees."))
        if not 0 <= self.drift_mm <= 1:
            found.append(Fault("drift_mm", "A drift of 0 to 1 mm (0.039 in)."))
        refuse(found)

    @property
    def surprising(self) -> bool:
        """Possible, but so much that the figure is asked about."""
        return self.clearance_mm > SURPRISING_MM

    def along_valve(self, instrument: Instrument) -> Value:
        """The clearance along the valve [mm], the dial's tilt taken out; u is the noise of reading it alone."""
        along = self.clearance_mm * math.cos(math.radians(self.tilt_deg))
        return Value(along, max(instrument.noise_mm, 1e-4))

    @property
    def tilt_u_mm(self) -> float:
        """What judging the dial's tilt by eye leaves open [mm]: alike in every reading of one sitting."""
        return self.clearance_mm * math.sin(math.radians(self.tilt_deg)) * math.radians(TILT_U_DEG)


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepFigure:
    """What the readings of one valve in one mock-up with one instrument amount to, on the mock-up's own basis.

    ``closest`` is None while there are too few. ``readings`` with their true angles [deg] and clearances along the
    valve [mm], and as the ``sweep`` that is fitted; ``shut``: they follow the piston alone, as at firing TDC; ``drop``
    C0 where it was read [mm]. ``by_turning``: the smallest found so, without an angle. ``modelled``: with the lobe of
    the mock-up, measured or by its card. ``tells_tdc``: the readings themselves show that they were read about overlap.
    """

    place: Place
    mockup: str
    instrument: Instrument
    closest: Closest | None
    readings: tuple[SweepReading, ...]
    angles_deg: tuple[float, ...]
    along: tuple[Value, ...]
    sweep: Sweep
    shut: bool
    drop: Value | None
    by_turning: bool = False
    modelled: bool = False
    tells_tdc: bool = False

    @property
    def after(self) -> int:
        """The order of the last change before the first of its readings."""
        return min(reading.after for reading in self.readings)

    @property
    def settled(self) -> bool:
        """Whether there is a figure: readings enough, and a fit that explains them."""
        return self.closest is not None and not self.closest.doubtful


def sweep_figures(basis: "Basis") -> list[SweepFigure]:
    """The figure of every valve in every mock-up with every instrument, in bench order.

    Of a valve read again after its crown or deck was changed only the newer readings count.
    """
    job = basis.job
    grouped: dict[_Key, list[SweepReading]] = {}
    for reading in of_the_newest_engine(job.of(SweepReading), job.engine, job.changes):
        place = reading.place
        # A drop may be older than the engine that was swept: the two are of one fit only where nothing lies between.
        age = age_of(job.changes, reading.after, place.cylinder, job.engine, Touched.FACE, place.side)
        key = (place, reading.mockup, reading.instrument, reading.by_turning, age)
        grouped.setdefault(key, []).append(reading)
    keys = sorted(grouped, key=lambda key: (key[0].bench_order, *key[1:]))
    begun = [_Begun(key, grouped[key], basis) for key in keys]
    # One hand, one instrument, one sheet: what every valve shows of the noise holds for all of them.
    sheets: dict[str, Scatter] = {}
    for one in begun:
        if one.fit and not one.shut:
            sheets[one.instrument.key] = sheets.get(one.instrument.key, Scatter()) + one.fit.scatter
    return [one.figure(sheets.get(one.instrument.key, Scatter())) for one in begun]


def _train_as_it_stood(basis: "Basis", side: Side, after: int, letter: str) -> ValveTrain | None:
    """The train as it stood in the mock-up, its lash and other rockers included; None where no lobe is better.

    One that bends, or bleeds down, does not lift by its lobe.
    """
    cam, mockup = basis.cams_when(after).get(side), basis.job.mockup(letter)
    if cam is None or mockup.is_loaded or mockup.bleeds:
        return None
    train = train_when(cam, basis.job.engine, basis.changes_of_the_cam(after), after)
    return train_in(train, setting_in(mockup, train.ratio, side))


_Key = tuple[Place, str, str, bool, int]


CHANGED_MM = 0.01


def crank_u_mm(engine: Engine, side: Side, t_deg: NDArray[np.float64]) -> NDArray[np.float64]:
    """What not knowing better makes of the piston's travel at angles (n,) [deg] after TDC; shape (3, n) [mm].

    Row by row: the stroke, the rod, and how a side's valves lean, where nobody said it.
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
    """The readings of one valve, its fit begun, while the others' noise is not known yet."""

    def __init__(self, key: _Key, readings: Sequence[SweepReading], basis: "Basis") -> None:
        self.place, self.mockup, named, self.by_turning, _ = key
        self.instrument = basis.job.instruments[named]
        self.readings = readings
        self.swept = sorted((r for r in readings if not r.drop), key=lambda reading: reading.crank_deg)
        self.along = [reading.along_valve(self.instrument) for reading in self.swept]
        wheel = basis.wheel_error_deg or Value(0.0, WHEEL_U_DEG)
        self.angles = [r.crank_deg - (0.0 if r.wheel_set else wheel.value) for r in self.swept]
        self.drop = _drop([reading for reading in readings if reading.drop], self.instrument)
        side = self.place.side
        after = min(reading.after for reading in readings)
        cam = basis.cams_when(after).get(side)
        self.sweep = Sweep(
            np.array(self.angles, dtype=float),
            np.array([value.value for value in self.along], dtype=float),
            np.array([value.u for value in self.along], dtype=float),
            basis.engine.row(side).axial_factor,
            max(wheel.u, 0.1),
            # A zero that drifted is off by up to so much, and all readings after it are off alike.
            math.hypot(self.instrument.own_mm, rectangular(max((r.drift_mm for r in self.swept), default=0.0))),
            self.drop,
            DEGREED_U_DEG if cam and cam.degreed else PHASE_U_DEG,
            side,
            partial(crank_u_mm, basis.engine, side),
            _smallest_tilt_u_mm(self.swept or self.readings),
        )
        self.shut = not self.by_turning and looks_shut(self.sweep, basis.crank)
        self.tells_tdc = not self.by_turning and not self.shut and can_tell_tdc(self.sweep)
        train = _train_as_it_stood(basis, side, after, self.mockup)
        self.modelled = train is not None and not self.by_turning
        self.fit = None if self.by_turning or self.shut else Fit(self.sweep, basis.crank, train)

    def figure(self, sheet: Scatter) -> SweepFigure:
        """The figure, with the noise that the whole sheet shows."""
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
    """How the crank was turned for the smallest of them; the wariest where two were as small [deg]."""
    least = min(reading.clearance_mm for reading in turned)
    steps = [reading.turned_step_deg for reading in turned if reading.clearance_mm == least]
    return None if None in steps else max(step for step in steps if step is not None)


def _smallest_tilt_u_mm(readings: Sequence[SweepReading]) -> float:
    """Of the smallest reading, which lies nearest to the closest point [mm]."""
    return min(readings, key=lambda reading: reading.clearance_mm).tilt_u_mm


def _drop(readings: Sequence[SweepReading], instrument: Instrument) -> Value | None:
    """The drop by its readings, their mean [mm]; what the instrument's own accuracy is worth is common to all."""
    if not readings:
        return None
    along = [reading.along_valve(instrument) for reading in readings]
    shared = math.hypot(max(one.tilt_u_mm for one in readings), rectangular(max(one.drift_mm for one in readings)))
    return mean_rung("", [one.value for one in along], max(one.u for one in along), shared).delta
