"""What a mock-up's conditions do to the trust in a clay reading.

Rules of the trade (common practice, no source): an unblocked hydraulic lifter bleeds down and makes
clearance look larger; running springs bend the train, so the flex is already spent; soft dough springs
back; bouncing putty flows flat; without two full turns not every valve came down on the clay.
"""

from dataclasses import dataclass

from mockup.checks.check import Trust
from mockup.checks.judge import Bound, Limit, daylight
from mockup.checks.margins import MarginSheet
from mockup.engine.mockup import Clay, Lifters, MockUp, Springs
from mockup.quantity.value import Value

SNUGGED_HIDES_MM = 0.127
"""Snugging instead of torquing hides up to 0.005 in: common practice, no source."""

_OPTIMISTIC = {
    "lifter": "Hydraulic lifter not blocked: it bleeds down, so this reads large. Not proof.",
    "turns": "Not two full turns: a valve may not have come down on the clay. Not proof.",
}
_LOADED = "Running springs: flex is already spent, so this reads larger than with checking springs."
_PUTTY = "Bouncing putty flows flat. Its thickness says nothing."
_DOUGH = "Soft dough springs back a little; counted as less sure."


@dataclass(frozen=True, slots=True)
class Standing:
    """What readings under some conditions may prove, and the cautions to show with them."""

    trust: Trust
    cautions: tuple[str, ...] = ()

    def bound(self, sheet: MarginSheet) -> Bound:
        """Whether the true clearance lies at the figure, or can only be smaller."""
        proves = self.trust is Trust.SOUND or (self.trust is Trust.LOADED and sheet.judged_loaded)
        return Bound.EXACT if proves else Bound.AT_MOST


def standing_of(mockup: MockUp) -> Standing:
    """The standing of clay readings taken in ``mockup``; the worst of its conditions decides."""
    cautions = []
    trust = Trust.SOUND
    if mockup.clay is Clay.DOUGH:
        cautions.append(_DOUGH)
    if mockup.springs is Springs.RUNNING:
        trust = Trust.LOADED
        cautions.append(_LOADED)
    if mockup.lifters is Lifters.UNBLOCKED:
        trust = Trust.OPTIMISTIC
        cautions.append(_OPTIMISTIC["lifter"])
    if not mockup.two_turns:
        trust = Trust.OPTIMISTIC
        cautions.append(_OPTIMISTIC["turns"])
    if mockup.clay is Clay.PUTTY:
        trust = Trust.VOID
        cautions.append(_PUTTY)
    return Standing(trust, tuple(cautions))


def snugged_too_near(figure: Value, limit: Limit) -> bool:
    """Whether a figure read under a head that was only snugged stands within 0.005 in of its limit [mm]."""
    left = daylight(figure, limit)
    return left is not None and abs(left) <= SNUGGED_HIDES_MM
