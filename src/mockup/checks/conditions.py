"""What a mock-up's conditions allow a clay reading to prove.

Rules of the trade (common practice, no source): an unblocked hydraulic lifter bleeds down and makes clearance look
larger; running springs bend the train, so the flex is already spent; soft dough springs back; bouncing putty flows
flat; without two full turns not every valve came down on the clay.
"""

from dataclasses import dataclass

from mockup.checks.check import Trust
from mockup.engine.mockup import Clay, Lifters, MockUp, PistonsIn, Springs
from mockup.engine.valves import Side
from mockup.limits.judge import Bound, Limit, margin
from mockup.limits.limit_set import LimitSet
from mockup.quantity.value import Value

SNUGGED_HIDES_MM = 0.127
"""Snugging instead of torquing hides up to 0.005 in: common practice, no source."""

_OPTIMISTIC = {
    "lifter": "Hydraulic lifter not blocked: it bleeds down, so this reads large. Not proof.",
    "lifter unsaid": "Lifters not stated: one that bleeds reads large. State them on the mock-up page.",
    "turns": "Not two full turns: a valve may not have come down on the clay. Not proof.",
}
HIDDEN = (
    "Ordinary lifters under light springs: what their plungers can hide at most is subtracted, so the clearance is at "
    "least this."
)
_LOADED = "Running springs: flex is already spent, so this reads larger than with checking springs."
_LOAD_UNSAID = "Springs not stated: running springs read large. State them on the mock-up page."
_SNUGGED_FINAL = (
    "The final gasket was under snugged bolts, so it was not compressed yet. It counts as a new gasket, only snugged."
)
_PUTTY = "Bouncing putty flows flat. Its thickness says nothing."
_DOUGH = "Soft dough springs back a little; counted as less sure."


@dataclass(frozen=True, slots=True)
class Grounds:
    """What readings under some conditions can prove, and the cautions to show with them.

    ``at_least``: something is only known not to take more than was counted.
    """

    trust: Trust
    cautions: tuple[str, ...] = ()
    at_least: bool = False

    def bound(self, limits: LimitSet) -> Bound:
        """Return whether the true clearance is at the figure, or can only be smaller."""
        proves = self.trust is Trust.SOUND or (self.trust is Trust.LOADED and limits.judged_loaded)
        if proves and self.at_least:
            return Bound.AT_LEAST
        return Bound.EXACT if proves else Bound.AT_MOST


def grounds_of(
    mockup: MockUp,
    ratio: float | None = None,
    side: Side | None = None,
    *,
    of_clay: bool = True,
    lobe_known: bool = False,
    reversed_runs: bool = False,
    hidden_counted: bool = False,
) -> Grounds:
    """The grounds of readings taken in ``mockup``; the worst of its conditions decides.

    ``ratio``: the rocker ratio the engine will run with [1], and ``side`` the valve's, where they are known. An
    indicator minds neither the clay nor whether two turns were made: ``of_clay`` False. ``lobe_known``: other rockers
    and another cam position are then counted, and flatter nothing. ``reversed_runs``: the engine runs its pistons
    reversed. ``hidden_counted``: what lifters can hide at most is subtracted from the figure.
    """
    cautions = []
    trust = Trust.SOUND
    if of_clay and mockup.clay is Clay.DOUGH:
        cautions.append(_DOUGH)
    if mockup.is_loaded:
        trust = Trust.LOADED
        cautions.append(_LOADED if mockup.springs is Springs.RUNNING else _LOAD_UNSAID)
    # Without a ratio a lifter's travel is no length at the valve.
    bounded = hidden_counted and mockup.hides_at_most_mm is not None and ratio is not None
    if bounded:
        cautions.append(HIDDEN)
    elif mockup.bleeds:
        trust = Trust.OPTIMISTIC
        cautions.append(_OPTIMISTIC["lifter" if mockup.lifters is Lifters.UNBLOCKED else "lifter unsaid"])
    if mockup.only_snugged:
        cautions.append(_SNUGGED_FINAL)
    if of_clay and not mockup.two_turns:
        trust = Trust.OPTIMISTIC
        cautions.append(_OPTIMISTIC["turns"])
    flattered, notes = ([], []) if lobe_known else _other_train(mockup, ratio, side)
    turned, more = _other_block(mockup, reversed_runs=reversed_runs)
    flattered, notes = [*flattered, *turned], [*notes, *more]
    if flattered:
        trust = Trust.OPTIMISTIC
    cautions += notes
    if of_clay and mockup.clay is Clay.PUTTY:
        trust = Trust.VOID
        cautions.append(_PUTTY)
    return Grounds(trust, tuple(cautions), at_least=bounded)


def _other_train(mockup: MockUp, ratio: float | None, side: Side | None) -> tuple[list[bool], list[str]]:
    """Return what differs in the mock-up's valve train, and whether that reads large."""
    notes, flattered = [], False
    if mockup.rocker_ratio is not None and ratio is not None and mockup.rocker_ratio != ratio:
        less = mockup.rocker_ratio < ratio
        flattered = less
        which = (
            "less lift than it will run, so this reads large. Not proof." if less else "more lift; this reads small."
        )
        notes.append(f"Rockers of {mockup.rocker_ratio:g} were fitted instead of {ratio:g}: {which}")
    if mockup.cam_advance_deg:
        # Advancing brings the intake nearer to the piston and takes the exhaust away.
        nearer = (mockup.cam_advance_deg > 0) == (side is Side.INTAKE)
        way = "in advance of" if mockup.cam_advance_deg > 0 else "behind"
        tail = "" if side is None else ("; this reads small." if nearer else ", so this reads large. Not proof.")
        flattered = flattered or (side is not None and not nearer)
        notes.append(f"The cam stood {abs(mockup.cam_advance_deg):g}° {way} where it will run{tail}")
    return [True] if flattered else [], notes


def _other_block(mockup: MockUp, *, reversed_runs: bool) -> tuple[list[bool], list[str]]:
    """Return what differs in the mock-up's block, and whether that reads large."""
    notes, flattered = [], []
    stood = mockup.pistons is PistonsIn.REVERSED
    if mockup.pistons is not PistonsIn.UNKNOWN and stood is not reversed_runs:
        flattered.append(True)
        way = "backwards" if stood else "the right way round, though the engine runs them reversed"
        notes.append(f"Pistons were in {way}: reliefs and pin offset were on the wrong side. Not proof.")
    if not mockup.caps_as_run:
        notes.append("Lash caps were not as it will run, so the rocker geometry differed.")
    return flattered, notes


def snugged_too_near(figure: Value, limit: Limit) -> bool:
    """Return whether a figure read under a snugged head is within 0.005 in of its limit [mm]."""
    left = margin(figure, limit)
    return left is not None and abs(left) <= SNUGGED_HIDES_MM
