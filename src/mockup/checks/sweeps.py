"""Piston-to-valve clearance by indicator or feelers: from the fit's closest point to the clearance as it will run."""

from collections.abc import Iterator
from dataclasses import replace

from mockup.checks.check import Check, Finding, Trust
from mockup.checks.clearance import (
    TOUCHING_MM,
    Carried,
    carried_finding,
    grounds_for,
    touching_as_read,
)
from mockup.checks.conditions import Grounds, grounds_of
from mockup.checks.to_running import valve_read
from mockup.engine.mockup import DialTurns, MockUp
from mockup.instruments import FEELERS
from mockup.limits.judge import Bound, State
from mockup.limits.margins import LimitName
from mockup.quantity.ladder import Rung
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.readings.basis import Basis
from mockup.readings.closest_point import Closest
from mockup.readings.sweep import SweepFigure

SHUT = "These follow the piston alone: both valves are shut, at firing TDC. Turn the crank a full turn and read again."
DROP_ALONE = "The drop alone: with the cam’s card or a measured lobe it gives a figure, or read about overlap."
DOUBTFUL = "No curve explains these readings: the figure would lie below what was read. Which one is wrong?"
NOT_DEGREED = "The cam was not degreed: it is supposed to stand within a degree of its card."
BY_CARD = "By the drop and the cam’s card alone: an estimate, and no proof. Read about overlap, or measure the lobe."
ONE_TURN_MM = {Unit.INCH: 100 * MM_PER_THOU, Unit.MILLIMETRE: 1.0}
"""What one turn of the usual dial is worth."""
WHICH_TURN = (
    "The reading is past one turn of the dial, and one turn too many reads large. State on the mock-up page how the "
    "turns were counted."
)
WHICH_TDC = (
    "These readings cannot tell overlap TDC from firing TDC. Read a second angle 5° or more away, or state on the "
    "mock-up page that both valves were moving."
)
HOW_TURNED = (
    "How the crank was turned is not stated: it counts as steps of 10°. Turn past the smallest and back: U is smaller."
)
FEW = "One or two angles: the closest point is supposed to lie where it usually does. Near the limit, sweep it."


def sweep_finding(figure: SweepFigure, limit: LimitName, basis: Basis) -> Finding:
    """What the sweep of one valve says in one mock-up.

    Its figure is None while there is nothing to go by, the valves were shut, or no curve explains the readings.
    Without a lobe, a closest point that lies at the end of the readings may be nearer still: the figure bounds the
    truth from above. What a card alone makes of a drop is an estimate.
    """
    method = f"{figure.instrument.name}, mock-up {figure.mockup}"
    keys = _keys(figure)
    closest = figure.closest
    if closest is None or closest.doubtful:
        trust = Trust.VOID if figure.shut or closest else Trust.OPTIMISTIC
        words = SHUT if figure.shut else (DOUBTFUL if closest else DROP_ALONE)
        return Finding(figure=None, trust=trust, method=method, evidence=keys, cautions=(words,))
    after = figure.after
    of = valve_read(figure.place, after, basis.engine, limit, swept=figure)
    mockup = basis.job.mockup(figure.mockup)
    grounds = grounds_for(of, _grounds(figure, closest, mockup, basis, after), basis)
    first = Rung(_how(figure), closest.minimum, parts=closest.parts)
    where = "found by turning" if figure.by_turning else f"closest at {_at(round(closest.angle.value))}"
    read = Carried(of=of, mockup=mockup, first=(first,))
    found = carried_finding(read, basis, grounds, f"{method}, {where}")
    if grounds.trust is Trust.ESTIMATE and found.figure:
        found = replace(found, bound=Bound.ABOUT)
    found = replace(found, evidence=keys)
    touched = any(reading.clearance_mm <= TOUCHING_MM and not reading.drop for reading in figure.readings)
    return touching_as_read(found) if touched else found


def _grounds(figure: SweepFigure, closest: Closest, mockup: MockUp, basis: Basis, after: int) -> Grounds:
    side = figure.place.side
    found = grounds_of(
        mockup,
        basis.said_ratio_when(after),
        side,
        of_clay=False,
        lobe_known=side in basis.cams,
        reversed_runs=basis.engine.pistons_reversed,
    )
    if found.trust is Trust.VOID:
        return found
    cam = basis.cams.get(side)
    said, trust = [], found.trust
    if figure.modelled and not figure.angles_deg:
        if not (cam and cam.train.lobe.measured):
            said, trust = [BY_CARD], Trust.ESTIMATE
        elif not cam.degreed:
            said.append(NOT_DEGREED)
    elif closest.has_curve and not closest.bracketed:
        said.append(f"The closest point lies at the end of the readings. Read at {_at(closest.next_deg)} next.")
        trust = trust if figure.modelled else Trust.OPTIMISTIC
    elif not closest.has_curve and not figure.by_turning:
        said.append(FEW)
    doubts = list(_unsaid(figure, mockup, basis.job.unit))
    said += doubts
    if WHICH_TURN in doubts or WHICH_TDC in doubts:
        trust = Trust.OPTIMISTIC
    unsaid = [name for name in basis.engine.unsaid if name != "bore"]
    if unsaid and closest.has_curve:
        said.append(f"The {' and '.join(unsaid)} not said: counted as is usual, and that doubt is in the U.")
    return Grounds(trust, (*found.cautions, *said))


def _unsaid(figure: SweepFigure, mockup: MockUp, unit: Unit) -> Iterator[str]:
    """Yield a caution for each condition of these readings that was not stated."""
    past_a_turn = any(one.clearance_mm > ONE_TURN_MM[unit] for one in figure.readings)
    if past_a_turn and figure.instrument.key != FEELERS and mockup.dial_turns is DialTurns.NOT_SAID:
        yield WHICH_TURN
    if figure.by_turning and any(one.turned_step_deg is None for one in figure.readings):
        yield HOW_TURNED
    if figure.angles_deg and not (figure.tells_tdc or mockup.tells_overlap):
        yield WHICH_TDC


def _how(figure: SweepFigure) -> str:
    count = len(figure.angles_deg)
    if figure.by_turning:
        return "smallest found by turning, less what the angle may have missed"
    if not count:
        return "closest, by the drop and the lobe"
    how = "one reading" if count == 1 else f"the fit of {count} readings"
    return f"closest, by {how}{' and the drop' if figure.drop and figure.modelled else ''}"


def is_enough(closest: Closest, check: Check | None) -> bool:
    """Whether another reading of ``check``'s valve changes nothing that matters."""
    return closest.enough(undecided=check is not None and check.state is State.CLOSE)


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
