"""The drop of a valve: how far it could be pushed, shut, at TDC. It is of block, piston, gasket and head, of no cam.

Read directly with both valves shut at firing TDC, found by the fit of a sweep, or by clay and the lift of the cam that
stood there. So it is what any other cam is judged by: C(t) = drop + k P(t) - L(t), docs/how-it-computes.md, "Another
cam".
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from mockup.checks.to_running import ReadOf, approach_to, drop_to_running, valve_read
from mockup.engine.mockup import MockUp, PistonsIn
from mockup.engine.valves import Place, Side
from mockup.limits.margins import LimitName
from mockup.quantity.ladder import Doubt, Part, Rung, running_figure
from mockup.quantity.value import Value
from mockup.readings.basis import Basis
from mockup.readings.clay import ClayReading
from mockup.readings.shifts import lift_rung
from mockup.readings.sweep import SweepFigure
from mockup.readings.valve_model import PHASE_U_DEG

READ_DIRECTLY = "the drop, read at firing TDC"
NOT_DEGREED = "; the cam not degreed, so it is only supposed to stand to its card"
LIFT_THERE = "and the lift of the cam where it came nearest"


@dataclass(frozen=True, slots=True, kw_only=True)
class Drop:
    """The drop of one valve: ``first`` as it was found, its rungs [mm]; ``of``, ``mockup``: carried from where.

    ``how``: by what it was found; ``direct``: read as such. ``evidence``: the keys of its readings.
    """

    place: Place
    of: ReadOf
    mockup: MockUp
    first: tuple[Rung, ...]
    how: str
    direct: bool
    evidence: tuple[str, ...]

    @property
    def as_found(self) -> Value:
        """The drop in the mock-up it was read in [mm]."""
        return running_figure(self.first)

    def ladder(self, basis: Basis) -> tuple[Rung, ...]:
        """The drop carried to the engine as it will run [mm]; empty where no final gasket is chosen."""
        carried = drop_to_running(self.of, self.mockup, basis)
        return (*self.first, *carried) if carried else ()

    def running(self, basis: Basis) -> Value | None:
        """The drop in the engine as it will run [mm]; None where no final gasket is chosen."""
        ladder = self.ladder(basis)
        return running_figure(ladder) if ladder else None


def drop_of_sweep(figure: SweepFigure, basis: Basis) -> Drop | None:
    """What a sweep, a reading of the drop alone, or turning says of the drop; None where it says nothing of it."""
    closest, own = figure.closest, figure.instrument.own_mm
    of = replace(_read_of(figure.place, figure.after, basis), drop=True)
    if closest and closest.fitted and not closest.doubtful:
        direct = figure.drop is not None and not figure.angles_deg
        how = READ_DIRECTLY if direct else f"the drop, by the fit of {len(figure.angles_deg)} readings"
        if not direct and figure.sweep.phase_u_deg == PHASE_U_DEG:
            how += NOT_DEGREED
        first: tuple[Rung, ...] = (Rung(how, closest.fitted.drop, parts=closest.fitted.drop_parts),)
    elif figure.drop is not None:
        direct, how = True, READ_DIRECTLY
        parts = (Part(Doubt.REPEATABILITY, figure.drop.u), Part(Doubt.INSTRUMENT, own))
        first = (Rung(how, figure.drop + Value(0.0, own), parts=parts),)
    elif figure.by_turning and closest and not _bent_or_bled(basis.job.mockup(figure.mockup)):
        back = _lift_back(replace(of, drop=False), basis.job.mockup(figure.mockup), basis)
        if back is None:
            return None
        direct, how = False, "the drop, by the smallest that turning found and the cam"
        first = (Rung("smallest found by turning", closest.minimum, parts=closest.parts), back)
    else:
        return None
    return Drop(
        place=figure.place,
        of=of,
        mockup=basis.job.mockup(figure.mockup),
        first=first,
        how=how,
        direct=direct,
        evidence=tuple(reading.key for reading in figure.readings),
    )


def drop_of_clay(readings: Sequence[ClayReading], first: Sequence[Rung], mockup: MockUp, basis: Basis) -> Drop | None:
    """What the clay of one valve says of the drop: its thickness, ``first``, and the lift of the cam that stood there.

    None where that lift is not known, or the mock-up flattered it.
    """
    reading = readings[0]
    after = min(one.after for one in readings)
    read = _read_of(reading.place, after, basis)
    flattered = _bent_or_bled(mockup) or not mockup.two_turns or not any(one.touched for one in readings)
    back = None if flattered else _lift_back(read, mockup, basis)
    if back is None:
        return None
    return Drop(
        place=reading.place,
        of=replace(read, drop=True),
        mockup=mockup,
        first=(*first, back),
        how="the drop, by the clay and the cam",
        direct=False,
        evidence=tuple(one.key for one in readings),
    )


def _read_of(place: Place, after: int, basis: Basis) -> ReadOf:
    limit = LimitName.FACE_INTAKE if place.side is Side.INTAKE else LimitName.FACE_EXHAUST
    return valve_read(place, after, basis.engine, limit)


def _bent_or_bled(mockup: MockUp) -> bool:
    """Whether a train may not have lifted by its lobe there, so that what was read says too much of the drop."""
    return mockup.is_loaded or mockup.bleeds


def _lift_back(of: ReadOf, mockup: MockUp, basis: Basis) -> Rung | None:
    """The lift of the cam that stood there, as it stood, taken back out of what was read [mm]."""
    if of.side not in basis.cams_when(of.after):
        return None
    approach = approach_to(of, mockup, basis)
    there = lift_rung(approach, approach.read)
    return replace(there, text=LIFT_THERE, delta=Value(-there.delta.value, there.delta.u))


def drops_of(found: Iterable[Drop], basis: Basis) -> Mapping[Place, Drop]:
    """Of each valve the drop that is known best, in bench order; what a reversed piston says of it counts for none."""
    best: dict[Place, Drop] = {}
    for drop in _of_this_engine(found, basis):
        known = best.get(drop.place)
        if known is None or _doubt(drop, basis) < _doubt(known, basis):
            best[drop.place] = drop
    return dict(sorted(best.items(), key=lambda pair: pair[0].bench_order))


def _doubt(drop: Drop, basis: Basis) -> float:
    return (drop.running(basis) or drop.as_found).u


def _of_this_engine(found: Iterable[Drop], basis: Basis) -> Iterator[Drop]:
    for drop in found:
        stood = drop.mockup.pistons
        if stood is PistonsIn.UNKNOWN or (stood is PistonsIn.REVERSED) is basis.engine.pistons_reversed:
            yield drop
