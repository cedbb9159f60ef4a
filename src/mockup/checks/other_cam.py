"""Clearances read before another cam went in, from their drop and the present lobe."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from mockup.checks.check import Finding, Trust
from mockup.checks.clearance import Carried, carried_finding, grounds_for, square_to_crown
from mockup.checks.conditions import Grounds
from mockup.checks.drops import Drop, drop_of_clay, drop_of_sweep, drops_of
from mockup.checks.to_running import NO_LOBE
from mockup.context import EvaluationContext
from mockup.engine.mockup import Clay
from mockup.engine.valves import Place
from mockup.fit.clay_thickness import thinnest_correction
from mockup.fit.swept_valve import SweepFigure
from mockup.limits.judge import Bound
from mockup.limits.limit_set import LimitName
from mockup.quantity.corrections import Correction
from mockup.readings.clay import ClayReading, Gap

NO_DROP = "Read before another cam went in, and it gives no drop: read it again, or read the drop."
BY_OTHER_CARD = "From the drop and the card of the new cam: a prediction. Measure it before final assembly."
BY_TABLE = "From the drop and the measured lobe of the new cam. Measure it before final assembly."


def sweep_before(figure: SweepFigure, limit: LimitName, context: EvaluationContext) -> Finding:
    """Return what a sweep or a drop read before another cam went in tells of a valve now."""
    keys = tuple(reading.key for reading in figure.readings)
    method = f"{figure.instrument.name}, mock-up {figure.mockup}, before another cam"
    return _by_the_drop(drop_of_sweep(figure, context), limit, context, method, keys)


def clay_before(readings: Sequence[ClayReading], limit: LimitName, context: EvaluationContext) -> Finding:
    """Return what clay cut before another cam went in tells of a valve; thinnest first."""
    keys = tuple(reading.key for reading in readings)
    method = f"clay, mock-up {readings[0].mockup}, before another cam"
    return _by_the_drop(clay_drop(readings, context), limit, context, method, keys)


def clay_drop(readings: Sequence[ClayReading], context: EvaluationContext) -> Drop | None:
    """Return the drop found by clay over one valve's face, or None."""
    mockup = context.job.mockup(readings[0].mockup)
    if mockup.clay is Clay.PUTTY:
        return None
    thickness: Correction = replace(
        thinnest_correction(readings, context.job.instruments), text="thickness of the clay"
    )
    return drop_of_clay(readings, (thickness, *square_to_crown(readings[0], context.engine)), mockup, context)


def known_drops(context: EvaluationContext) -> Mapping[Place, Drop]:
    """Return the best-known drop of each valve, in bench order."""
    found = [drop_of_sweep(figure, context) for figure in context.sweeps]
    for (_, gap, _), readings in context.clay.items():
        if gap is Gap.FACE:
            found.append(clay_drop(readings, context))
    return drops_of((drop for drop in found if drop), context)


def _by_the_drop(
    drop: Drop | None, limit: LimitName, context: EvaluationContext, method: str, evidence: tuple[str, ...]
) -> Finding:
    cam = context.cams.get(drop.place.side) if drop else None
    if drop is None or cam is None:
        words = (NO_LOBE if drop else NO_DROP,)
        return Finding(figure=None, trust=Trust.VOID, method=method, evidence=evidence, cautions=words, read_again=True)
    measured = cam.train.lobe.measured
    grounds = Grounds(Trust.SOUND if measured else Trust.ESTIMATE, (BY_TABLE if measured else BY_OTHER_CARD,))
    read = Carried(of=replace(drop.of, limit=limit), mockup=drop.mockup, first=drop.first)
    found = carried_finding(read, context, grounds_for(read.of, grounds, context), method)
    if not measured and found.figure:
        found = replace(found, bound=Bound.ABOUT)
    return replace(found, evidence=evidence)
