"""Indicator and feeler readings of one valve at crank angles about overlap TDC, and the drop with both valves shut.

A dial whose plunger rests on the retainer's flat, tilted b to the valve: true = reading x cos b, u = reading sin b u_b.
"""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from mockup.engine.block import Engine
from mockup.engine.changes import Change, Touched, age_of
from mockup.engine.valves import Side
from mockup.faults import Fault, refuse
from mockup.motion.slider_crank import SliderCrank
from mockup.motion.valve_lift import ValveTrain
from mockup.quantity.value import Value, rectangular, resolution_u
from mockup.readings.clay import Place
from mockup.readings.closest import Closest, Curve, Sweep, closest_approach, looks_shut
from mockup.readings.instruments import INDICATOR, Instrument
from mockup.readings.record import Reading, newest, standing

FURTHEST_DEG = 90.0
LARGEST_MM = 40.0
SURPRISING_MM = 0.9 * 25.4
TILT_U_DEG = 3.0
"""How truly a dial's tilt is judged by eye: common practice, no source."""
WHEEL_U_DEG = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepReading(Reading):
    """One clearance along the valve's axis, as read, at one crank angle in the mock-up ``mockup``.

    ``crank_deg`` about overlap TDC [deg], -90 to 90; a ``drop`` is read at firing TDC with both valves shut, whatever
    its angle. ``clearance_mm`` [mm], 0 to 40; ``tilt_deg`` of the dial to the valve [deg], 0 to 40; ``drift_mm``: how
    far the dial's zero had moved when it was looked at again [mm]. ``wheel_set``: the wheel had been set right.
    Raises FaultsError.
    """

    mockup: str
    place: Place
    crank_deg: float
    clearance_mm: float
    drop: bool = False
    instrument: str = INDICATOR
    tilt_deg: float = 0.0
    drift_mm: float = 0.0
    wheel_set: bool = True

    def __post_init__(self) -> None:
        found = []
        if not -FURTHEST_DEG <= self.crank_deg <= FURTHEST_DEG:
            found.append(Fault("crank_deg", "Within 90 degrees of overlap TDC: no valve is near its piston beyond."))
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
        """The clearance along the valve [mm], the dial's tilt taken out; u of reading, tilt and drift."""
        tilt = math.radians(self.tilt_deg)
        tilted = self.clearance_mm * math.sin(tilt) * math.radians(TILT_U_DEG)
        parts = (resolution_u(instrument.resolution_mm), tilted, rectangular(self.drift_mm))
        return Value(self.clearance_mm * math.cos(tilt), max(math.hypot(*parts), 1e-4))


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepFigure:
    """What the readings of one valve in one mock-up with one instrument amount to, on the mock-up's own basis.

    ``closest`` is None while there are too few. ``readings`` with their true angles [deg] and clearances along the
    valve [mm], and as the ``sweep`` that is fitted; ``shut``: they follow the piston alone, as at firing TDC; ``drop``
    C0 where it was read [mm].
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


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepConditions:
    """What sweeps are fitted with: engine, crank, instruments, the wheel's error, changes done.

    ``train_of``: a side's measured train as it stood when a reading was taken, by the order of the last change before
    it; None where the lobe was not measured.
    """

    engine: Engine
    crank: SliderCrank
    train_of: Callable[[Side, int], ValveTrain | None]
    instruments: Mapping[str, Instrument]
    wheel_error_deg: Value | None
    changes: tuple[Change, ...]


def sweep_figures(readings: Iterable[SweepReading], run: SweepConditions) -> list[SweepFigure]:
    """The figure of every valve in every mock-up with every instrument, in bench order.

    Of a valve read again after its crown or deck was changed only the newer readings count.
    """
    alive = newest(
        standing(readings),
        lambda reading: reading.place,
        lambda reading: age_of(
            run.changes, reading.after, reading.place.cylinder, run.engine, Touched.FACE, reading.place.side
        ),
    )
    grouped: dict[tuple[Place, str, str], list[SweepReading]] = {}
    for reading in alive:
        grouped.setdefault((reading.place, reading.mockup, reading.instrument), []).append(reading)
    keys = sorted(grouped, key=lambda key: (key[0].bench_order, key[1], key[2]))
    return [_figure(key, grouped[key], run) for key in keys]


def _figure(key: tuple[Place, str, str], readings: Sequence[SweepReading], run: SweepConditions) -> SweepFigure:
    place, mockup, named = key
    instrument = run.instruments[named]
    swept = sorted((r for r in readings if not r.drop), key=lambda reading: reading.crank_deg)
    along = [reading.along_valve(instrument) for reading in swept]
    drop = _drop([reading.along_valve(instrument) for reading in readings if reading.drop])
    wheel = run.wheel_error_deg or Value(0.0, WHEEL_U_DEG)
    angles = [r.crank_deg - (0.0 if r.wheel_set else wheel.value) for r in swept]
    sweep = Sweep(
        np.array(angles, dtype=float),
        np.array([value.value for value in along], dtype=float),
        _u_with_repeats(angles, along),
        run.engine.row(place.side).axial_factor,
        max(wheel.u, 0.1),
        rectangular(instrument.accuracy_mm),
        drop,
    )
    train = run.train_of(place.side, min(reading.after for reading in readings))
    shut = len(swept) >= 3 and looks_shut(sweep, run.crank)
    return SweepFigure(
        place=place,
        mockup=mockup,
        instrument=instrument,
        closest=None if shut else closest_approach(sweep, run.crank, train),
        readings=(*swept, *(reading for reading in readings if reading.drop)),
        angles_deg=tuple(angles),
        along=tuple(along),
        sweep=sweep,
        shut=shut,
        drop=drop,
    )


def _drop(read: Sequence[Value]) -> Value | None:
    if not read:
        return None
    return Value(float(np.mean([value.value for value in read])), max(value.u for value in read))


def _u_with_repeats(angles: Sequence[float], along: Sequence[Value]) -> Curve:
    """Standard uncertainty of each reading: its own, with the pooled scatter of repeats at one angle (GUM 4.2.4)."""
    squares, freedom = 0.0, 0
    for angle in set(angles):
        repeats = [value.value for at, value in zip(angles, along, strict=True) if at == angle]
        if len(repeats) > 1:
            squares += float(np.var(repeats)) * len(repeats)
            freedom += len(repeats) - 1
    pooled = math.sqrt(squares / freedom) if freedom else 0.0
    return np.array([math.hypot(value.u, pooled) for value in along], dtype=float)
