"""Piston-to-valve clearance by indicator or feelers: from the fit's closest point to the clearance as it will run."""

from dataclasses import replace

from mockup.checks.check import Check, Finding, Trust
from mockup.checks.clearance import AsItWillRun, carried_finding, standing_for, to_running, valve_read
from mockup.checks.conditions import Standing, standing_of
from mockup.engine.changes import ratio_at
from mockup.engine.mockup import MockUp
from mockup.quantity.ladder import Rung
from mockup.quantity.typed_angle import format_crank_angle
from mockup.readings.sweep import SweepFigure

SHUT = "These follow the piston alone: both valves are shut, at firing TDC. Turn the crank a full turn and read again."
FEW = "Three different angles at least, where no lobe was measured."


def sweep_finding(figure: SweepFigure, mockup: MockUp, run: AsItWillRun) -> Finding:
    """What the sweep of one valve says in one mock-up.

    Its figure is None while there are too few readings or the valves were shut. A closest point that lies at the end
    of the readings may be nearer still: the figure bounds the truth from above.
    """
    method = f"{figure.instrument.name}, mock-up {mockup.key}"
    keys = _keys(figure)
    if figure.closest is None:
        trust = Trust.VOID if figure.shut else Trust.OPTIMISTIC
        words = SHUT if figure.shut else FEW
        return Finding(figure=None, trust=trust, method=method, evidence=keys, cautions=(words,))
    closest = figure.closest
    place = figure.place
    after = min(reading.after for reading in figure.readings)
    of = valve_read(place, after, run.engine, swept=figure)
    ratio = ratio_at(run.engine, run.changes, after)
    standing = standing_for(of, standing_of(mockup, ratio, place.side, of_clay=False), run)
    if not closest.bracketed and standing.trust is not Trust.VOID:
        words = f"The closest point lies at the end of the readings. Read at {_at(closest.next_deg)} next."
        standing = Standing(Trust.OPTIMISTIC, (*standing.cautions, words))
    count = len(figure.angles_deg)
    how = "one reading" if count == 1 else f"the fit of {count} readings"
    rungs = [Rung(f"closest, by {how}", closest.minimum), *to_running(of, mockup, run)]
    at = f"{method}, closest at {_at(round(closest.angle.value))}"
    found = carried_finding(of, rungs, mockup, run, standing, at)
    return replace(found, evidence=keys)


def to_running_mm(figure: SweepFigure, check: Check) -> float | None:
    """What carries a sweep of ``check``'s valve to the running engine [mm]; None while that cannot be had."""
    if figure.closest is None:
        return None
    keys = _keys(figure)
    carried = [f.figure for f in (check.governing, *check.others) if f and f.figure and f.evidence == keys]
    return carried[0].value - figure.closest.minimum.value if carried else None


def _keys(figure: SweepFigure) -> tuple[str, ...]:
    return tuple(reading.key for reading in figure.readings)


def _at(degrees: float | None) -> str:
    return format_crank_angle(degrees or 0.0)
