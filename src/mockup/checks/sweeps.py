"""Valve clearance by indicator or feelers: the fit's closest point as it will run."""

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
from mockup.context import EvaluationContext
from mockup.engine.mockup import DialTurns, MockUp
from mockup.fit.closest_point import Closest
from mockup.fit.swept_valve import SweepFigure
from mockup.limits.judge import Bound, State
from mockup.limits.limit_set import LimitName
from mockup.quantity.corrections import Correction
from mockup.quantity.typed_angle import format_crank_angle
from mockup.quantity.value import MM_PER_THOU, Unit
from mockup.readings.instruments import FEELERS

SHUT = "These follow the piston alone: both valves are shut, at firing TDC. Turn the crank a full turn and read again."
DROP_ALONE = (
    "The drop alone gives a figure only with the cam’s card or a measured lobe. Add one, or read about overlap."
)
DOUBTFUL = "No curve explains these readings: the figure would be below what was read. Which one is wrong?"
NOT_DEGREED = "The cam was not degreed: it is assumed to be within a degree of its card."
BY_CARD = "From the drop and the cam’s card alone: an estimate, not proof. Read about overlap, or measure the lobe."
ONE_TURN_MM = {Unit.INCH: 100 * MM_PER_THOU, Unit.MILLIMETRE: 1.0}
"""The length of one turn of the usual dial."""
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
FEW = "One or two angles: the closest point is assumed to be where it usually is. Near the limit, sweep it."


def sweep_finding(figure: SweepFigure, limit: LimitName, context: EvaluationContext) -> Finding:
    """Return the finding of one valve's sweep in one mock-up.

    Its figure is None while there is no information, the valves were shut, or no curve explains the readings. Without a
    lobe, a closest point at the end of the readings may be nearer still, so the figure bounds the truth from above. A
    drop with a card alone is an estimate.
    """
    method = f"{figure.instrument.name}, mock-up {figure.mockup}"
    keys = _keys(figure)
    closest = figure.closest
    if closest is None or closest.doubtful:
        trust = Trust.VOID if figure.shut or closest else Trust.OPTIMISTIC
        words = SHUT if figure.shut else (DOUBTFUL if closest else DROP_ALONE)
        return Finding(figure=None, trust=trust, method=method, evidence=keys, cautions=(words,))
    after = figure.after
    of = valve_read(figure.place, after, context.engine, limit, swept=figure)
    mockup = context.job.mockup(figure.mockup)
    grounds = grounds_for(of, _grounds(figure, closest, mockup, context, after), context)
    first = Correction(_how(figure), closest.minimum, parts=closest.parts)
    where = "found by turning" if figure.by_turning else f"closest at {_at(round(closest.angle.value))}"
    read = Carried(of=of, mockup=mockup, first=(first,))
    found = carried_finding(read, context, grounds, f"{method}, {where}")
    if grounds.trust is Trust.ESTIMATE and found.figure:
        found = replace(found, bound=Bound.ABOUT)
    found = replace(found, evidence=keys)
    touched = any(reading.clearance_mm <= TOUCHING_MM and not reading.drop for reading in figure.readings)
    return touching_as_read(found) if touched else found


def _grounds(figure: SweepFigure, closest: Closest, mockup: MockUp, context: EvaluationContext, after: int) -> Grounds:
    side = figure.place.side
    found = grounds_of(
        mockup,
        context.stated_ratio_when(after),
        side,
        of_clay=False,
        lobe_known=side in context.cams,
        reversed_runs=context.engine.pistons_reversed,
        hidden_counted=True,
    )
    if found.trust is Trust.VOID:
        return found
    cam = context.cams.get(side)
    said, trust = [], found.trust
    if figure.modelled and not figure.angles_deg:
        if not (cam and cam.train.lobe.measured):
            said, trust = [BY_CARD], Trust.ESTIMATE
        elif not cam.degreed:
            said.append(NOT_DEGREED)
    elif closest.has_curve and not closest.bracketed:
        said.append(f"The closest point is at the end of the readings. Read at {_at(closest.next_deg)} next.")
        trust = trust if figure.modelled else Trust.OPTIMISTIC
    elif not closest.has_curve and not figure.by_turning:
        said.append(FEW)
    doubts = list(_unsaid(figure, mockup, context.job.unit))
    said += doubts
    if WHICH_TURN in doubts or WHICH_TDC in doubts:
        trust = Trust.OPTIMISTIC
    unsaid = [name for name in context.engine.unstated if name != "bore"]
    if unsaid and closest.has_curve:
        said.append(f"Not stated: {' and '.join(unsaid)}. Usual values are assumed, and their doubt is in the U.")
    return replace(found, trust=trust, cautions=(*found.cautions, *said))


def _unsaid(figure: SweepFigure, mockup: MockUp, unit: Unit) -> Iterator[str]:
    """Yield a caution for each condition of these readings that was not stated."""
    past_a_turn = any(one.clearance_mm > ONE_TURN_MM[unit] for one in figure.readings)
    if past_a_turn and figure.instrument.key != FEELERS and mockup.dial_turns is DialTurns.NOT_STATED:
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
        return "closest, from the drop and the lobe"
    how = "one reading" if count == 1 else f"the fit of {count} readings"
    return f"closest, by {how}{' and the drop' if figure.drop and figure.modelled else ''}"


def is_enough(closest: Closest, check: Check | None) -> bool:
    """Return whether another reading of ``check``'s valve would change nothing that matters."""
    return closest.enough(undecided=check is not None and check.state is State.CLOSE)


def to_running_mm(figure: SweepFigure, check: Check) -> float | None:
    """Return the sum of the corrections that carry a sweep to the running engine [mm], or None."""
    if figure.closest is None:
        return None
    keys = _keys(figure)
    carried = [f.figure for f in (check.governing, *check.others) if f and f.figure and f.evidence == keys]
    return carried[0].value - figure.closest.minimum.value if carried else None


def _keys(figure: SweepFigure) -> tuple[str, ...]:
    return tuple(reading.key for reading in figure.readings)


def _at(degrees: float | None) -> str:
    return format_crank_angle(degrees or 0.0)
