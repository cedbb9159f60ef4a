"""Clearances of valves that were read before another cam went in: by their drop, and the lobe that lifts them now."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from mockup.checks.check import Finding, Trust
from mockup.checks.clearance import Carried, carried_finding, grounds_for, square_to_crown, thinnest_rung
from mockup.checks.conditions import Grounds
from mockup.checks.drops import Drop, drop_of_clay, drop_of_sweep, drops_of
from mockup.checks.to_running import NO_LOBE
from mockup.engine.mockup import Clay
from mockup.engine.valves import Place
from mockup.limits.judge import Bound
from mockup.limits.margins import LimitName
from mockup.quantity.ladder import Rung
from mockup.readings.basis import Basis
from mockup.readings.clay import ClayReading, Gap
from mockup.readings.sweep import SweepFigure

NO_DROP = "Read before another cam went in, and it says nothing of the drop: read it again, or read the drop."
BY_OTHER_CARD = "By the drop and the card of the cam that went in: a prediction. Measure it before final assembly."
BY_TABLE = "By the drop and the measured lobe of the cam that went in. Measure it before final assembly."


def sweep_before(figure: SweepFigure, limit: LimitName, basis: Basis) -> Finding:
    """What a sweep, or a drop, that was read before another cam went in says of a valve now."""
    keys = tuple(reading.key for reading in figure.readings)
    method = f"{figure.instrument.name}, mock-up {figure.mockup}, before another cam"
    return _by_the_drop(drop_of_sweep(figure, basis), limit, basis, method, keys)


def clay_before(readings: Sequence[ClayReading], limit: LimitName, basis: Basis) -> Finding:
    """What clay that was cut before another cam went in says of a valve now; its readings thinnest first."""
    keys = tuple(reading.key for reading in readings)
    method = f"clay, mock-up {readings[0].mockup}, before another cam"
    return _by_the_drop(clay_drop(readings, basis), limit, basis, method, keys)


def clay_drop(readings: Sequence[ClayReading], basis: Basis) -> Drop | None:
    """What the clay over one valve's face says of its drop; None where it says nothing of it."""
    mockup = basis.job.mockup(readings[0].mockup)
    if mockup.clay is Clay.PUTTY:
        return None
    thickness: Rung = replace(thinnest_rung(readings, basis.job.instruments), text="thickness of the clay")
    return drop_of_clay(readings, (thickness, *square_to_crown(readings[0], basis.engine)), mockup, basis)


def known_drops(basis: Basis) -> Mapping[Place, Drop]:
    """The drop of every valve that something says it of, as far as it is known best, in bench order."""
    found = [drop_of_sweep(figure, basis) for figure in basis.sweeps]
    for (_, gap, _), readings in basis.clay.items():
        if gap is Gap.FACE:
            found.append(clay_drop(readings, basis))
    return drops_of((drop for drop in found if drop), basis)


def _by_the_drop(drop: Drop | None, limit: LimitName, basis: Basis, method: str, evidence: tuple[str, ...]) -> Finding:
    cam = basis.cams.get(drop.place.side) if drop else None
    if drop is None or cam is None:
        words = (NO_LOBE if drop else NO_DROP,)
        return Finding(figure=None, trust=Trust.VOID, method=method, evidence=evidence, cautions=words, read_again=True)
    measured = cam.train.lobe.measured
    grounds = Grounds(Trust.SOUND if measured else Trust.ESTIMATE, (BY_TABLE if measured else BY_OTHER_CARD,))
    read = Carried(of=replace(drop.of, limit=limit), mockup=drop.mockup, first=drop.first)
    found = carried_finding(read, basis, grounds_for(read.of, grounds, basis), method)
    if not measured and found.figure:
        found = replace(found, bound=Bound.ABOUT)
    return replace(found, evidence=evidence)
