"""The drop of a valve: how far it could be pushed, shut, at TDC.

It depends on block, piston, gasket and head, not on the cam.

It is read directly with both valves shut at firing TDC, found by fitting a sweep, or computed from clay and the lift
of the cam in place. Any other cam is judged by it: C(t) = drop + k P(t) - L(t), docs/how-it-computes.md, "Another
cam".
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from mockup.checks.to_running import ReadOf, approach_to, drop_to_running, valve_read
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT, FACE_INTAKE_LIMIT
from mockup.context import EvaluationContext
from mockup.engine.mockup import MockUp, PistonsIn
from mockup.engine.valves import Place, Side
from mockup.fit.shifts import lift_correction
from mockup.fit.swept_valve import SweepFigure
from mockup.fit.valve_model import PHASE_U_DEG
from mockup.quantity.corrections import Correction, Part, UncertaintySource, running_figure
from mockup.quantity.value import Value
from mockup.readings.clay import ClayReading

READ_DIRECTLY = "the drop, read at firing TDC"
NOT_DEGREED = "; the cam is not degreed and is assumed to be as on its card"
LIFT_THERE = "and the lift of the cam at the closest point"


@dataclass(frozen=True, slots=True, kw_only=True)
class Drop:
    """The drop of one valve: ``first`` as found [mm], ``of`` and ``mockup`` it comes from.

    ``how``: the method; ``direct``: read as a drop. ``evidence``: the keys of its readings.
    """

    place: Place
    of: ReadOf
    mockup: MockUp
    first: tuple[Correction, ...]
    how: str
    direct: bool
    evidence: tuple[str, ...]

    @property
    def as_found(self) -> Value:
        """The drop in the mock-up it was read in [mm]."""
        return running_figure(self.first)

    def corrections(self, context: EvaluationContext) -> tuple[Correction, ...]:
        """Return the corrections to the running engine [mm]; empty without a final gasket."""
        carried = drop_to_running(self.of, self.mockup, context)
        return (*self.first, *carried) if carried else ()

    def running(self, context: EvaluationContext) -> Value | None:
        """Return the drop in the engine as it will run [mm]; None where no final gasket is chosen."""
        corrections = self.corrections(context)
        return running_figure(corrections) if corrections else None


def drop_of_sweep(figure: SweepFigure, context: EvaluationContext) -> Drop | None:
    """Return the drop by a sweep, by a reading of the drop, or by turning; else None."""
    closest, own = figure.closest, figure.instrument.own_mm
    of = replace(_read_of(figure.place, figure.after, context), drop=True)
    if closest and closest.fitted and not closest.doubtful:
        direct = figure.drop is not None and not figure.angles_deg
        how = READ_DIRECTLY if direct else f"the drop, from the fit of {len(figure.angles_deg)} readings"
        if not direct and figure.sweep.phase_u_deg == PHASE_U_DEG:
            how += NOT_DEGREED
        first: tuple[Correction, ...] = (Correction(how, closest.fitted.drop, parts=closest.fitted.drop_parts),)
    elif figure.drop is not None:
        direct, how = True, READ_DIRECTLY
        parts = (Part(UncertaintySource.REPEATABILITY, figure.drop.u), Part(UncertaintySource.INSTRUMENT, own))
        first = (Correction(how, figure.drop + Value(0.0, own), parts=parts),)
    elif figure.by_turning and closest and not _bent_or_bled(context.job.mockup(figure.mockup)):
        back = _lift_back(replace(of, drop=False), context.job.mockup(figure.mockup), context)
        if back is None:
            return None
        direct, how = False, "the drop, from the smallest found by turning and the cam"
        first = (Correction("smallest found by turning", closest.minimum, parts=closest.parts), back)
    else:
        return None
    return Drop(
        place=figure.place,
        of=of,
        mockup=context.job.mockup(figure.mockup),
        first=first,
        how=how,
        direct=direct,
        evidence=tuple(reading.key for reading in figure.readings),
    )


def drop_of_clay(
    readings: Sequence[ClayReading], first: Sequence[Correction], mockup: MockUp, context: EvaluationContext
) -> Drop | None:
    """Return the drop by one valve's clay: thickness, ``first``, and lift of the cam in place.

    None where that lift is not known, or the mock-up reads large.
    """
    reading = readings[0]
    after = min(one.after for one in readings)
    read = _read_of(reading.place, after, context)
    flattered = _bent_or_bled(mockup) or not mockup.two_turns or not any(one.touched for one in readings)
    back = None if flattered else _lift_back(read, mockup, context)
    if back is None:
        return None
    return Drop(
        place=reading.place,
        of=replace(read, drop=True),
        mockup=mockup,
        first=(*first, back),
        how="the drop, from the clay and the cam",
        direct=False,
        evidence=tuple(one.key for one in readings),
    )


def _read_of(place: Place, after: int, context: EvaluationContext) -> ReadOf:
    limit = FACE_INTAKE_LIMIT if place.side is Side.INTAKE else FACE_EXHAUST_LIMIT
    return valve_read(place, after, context.engine, limit)


def _bent_or_bled(mockup: MockUp) -> bool:
    """Return whether the train may not have followed its lobe, which overstates the drop."""
    return mockup.is_loaded or mockup.bleeds


def _lift_back(of: ReadOf, mockup: MockUp, context: EvaluationContext) -> Correction | None:
    """Return the correction that takes out the lift of the mock-up's cam [mm]."""
    if of.side not in context.cams_when(of.after):
        return None
    approach = approach_to(of, mockup, context)
    there = lift_correction(approach, approach.read)
    return replace(there, text=LIFT_THERE, delta=Value(-there.delta.value, there.delta.u))


def drops_of(found: Iterable[Drop], context: EvaluationContext) -> Mapping[Place, Drop]:
    """Return the best-known drop of each valve, in bench order; reversed pistons do not count."""
    best: dict[Place, Drop] = {}
    for drop in _of_this_engine(found, context):
        known = best.get(drop.place)
        if known is None or _doubt(drop, context) < _doubt(known, context):
            best[drop.place] = drop
    return dict(sorted(best.items(), key=lambda pair: pair[0].bench_order))


def _doubt(drop: Drop, context: EvaluationContext) -> float:
    return (drop.running(context) or drop.as_found).u


def _of_this_engine(found: Iterable[Drop], context: EvaluationContext) -> Iterator[Drop]:
    for drop in found:
        stood = drop.mockup.pistons
        if stood is PistonsIn.UNKNOWN or (stood is PistonsIn.REVERSED) is context.engine.pistons_reversed:
            yield drop
