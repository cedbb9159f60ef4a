"""A mock-up: the conditions under which clearance readings are taken.

A reading means nothing without its method, so every clearance reading belongs to a mock-up.
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from mockup.base.faults import Fault, refuse
from mockup.engine.gasket import (
    MOST_SHIMS_MM,
    SNUGGED_THICKNESS_U_MM,
    SQUEEZED_MM,
    STATED_THICKNESS_U_MM,
    THICKEST_MM,
    UNKNOWN_GASKET,
    USED_MM,
    GasketState,
)
from mockup.engine.valves import Side
from mockup.quantity.fields import Mm, Most, Name, Words
from mockup.quantity.shown import mm_range
from mockup.quantity.value import Value, rectangular

MOST_ALSO = 20
STEEPEST_USUAL_RATIO = 2.0
"""Few engines have a higher rocker ratio: common practice, no source."""


class Bolts(StrEnum):
    """How tightly the head was held down."""

    TORQUED = "torqued"
    SNUGGED = "snugged"


class Lifters(StrEnum):
    """The lifters in the mock-up."""

    SOLID = "solid"
    BLOCKED = "blocked"
    UNBLOCKED = "unblocked"
    NOT_STATED = "not said"


class Springs(StrEnum):
    """Light checking springs, or the ones the engine runs with."""

    CHECKING = "checking"
    RUNNING = "running"
    NOT_STATED = "not said"


class Overlap(StrEnum):
    """How overlap TDC was told from firing TDC, one full turn of the crank away.

    A degree wheel on the crank reads the same at both.
    """

    NOT_STATED = "not said"
    MOVING = "both valves moving"
    MARKS = "cam marks"
    WHEEL = "wheel alone"


class Fasteners(StrEnum):
    """What held the head down."""

    OLD = "old"
    NEW = "new"
    STRETCH = "stretch"


class DialTurns(StrEnum):
    """How whole turns of the dial were counted: a dial looks the same one turn further."""

    NOT_STATED = "not said"
    COUNTER = "turns counter"
    COUNTED = "counted"


class PistonsIn(StrEnum):
    """Which way round the pistons were in the mock-up."""

    RIGHT = "right way round"
    REVERSED = "reversed"
    UNKNOWN = "not noted"


class LashAt(StrEnum):
    """Where the lash was measured."""

    VALVE = "valve"
    PUSHROD = "pushrod"


class Clay(StrEnum):
    """What was squeezed."""

    MODELLING = "modelling"
    DOUGH = "dough"
    PUTTY = "putty"


_NO_THICKNESS = {
    GasketState.FINAL: "The one it will run has the thickness of the final gasket: leave this empty.",
    GasketState.SAME_USED: "The same kind has the final gasket’s thickness: leave this empty.",
    GasketState.NONE: "With no gasket there is no thickness; leave it empty.",
    GasketState.UNKNOWN: "Say which gasket has this thickness, or leave it empty.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class MockUp:
    """One set of conditions, named by a letter.

    ``gasket_mm`` [mm], 0 to 6: compressed thickness of another gasket, free thickness of a new one only snugged (0
    where not stated), 0 otherwise. ``laid_mm`` [mm], 0.3 to 40: how thick the clay was laid, 0 where not stated.
    ``lash_mm`` [mm], 0 to 3: lash left in during the check, measured at ``lash_at``; ``lash_exhaust_mm`` the exhaust's
    where it differs. ``shims_mm`` [mm], 0 to 10: base shims under every barrel. ``rocker_ratio`` [1], 1 to 3, where
    other rockers were fitted. ``cam_advance_deg``: how far the cam was advanced from where it will run [deg], within
    +-30. ``caps_as_run``: lash caps on or off as it will run. ``gasket_known_to_mm``: accuracy of the gasket's
    thickness, +- [mm], 0 for the usual. ``two_turns``: the crank was turned two full turns by hand, so that every valve
    opened once. ``springs_at``: the valves and bank with checking springs. ``also``: anything else final assembly must
    undo, one a line. ``overlap``: how overlap TDC was told from firing TDC. ``dial_turns``: how whole turns of the
    indicator were counted. ``plunger_mm`` [mm], 0.1 to 8: how far the plunger of an ordinary lifter can go down, which
    is the most it can hide; None where not stated. Anything not stated counts as the less favourable answer. Raises
    FaultsError.
    """

    key: Name
    gasket_state: GasketState = GasketState.UNKNOWN
    gasket_mm: Mm = 0.0
    bolts: Bolts = Bolts.SNUGGED
    lifters: Lifters = Lifters.NOT_STATED
    springs: Springs = Springs.NOT_STATED
    lash_mm: Mm = 0.0
    lash_at: LashAt = LashAt.VALVE
    shims_mm: Mm = 0.0
    clay: Clay = Clay.MODELLING
    two_turns: bool = False
    lash_exhaust_mm: Mm | None = None
    head: Words = ""
    blocked_how: Words = ""
    fasteners: Fasteners = Fasteners.OLD
    rocker_ratio: float | None = None
    caps_as_run: bool = True
    cam_advance_deg: float = 0.0
    wheel_checked: bool = False
    gasket_known_to_mm: Mm = 0.0
    pistons: PistonsIn = PistonsIn.UNKNOWN
    laid_mm: Mm = 0.0
    springs_at: Words = ""
    also: Annotated[tuple[Words, ...], Most(MOST_ALSO)] = ()
    overlap: Overlap = Overlap.NOT_STATED
    dial_turns: DialTurns = DialTurns.NOT_STATED
    plunger_mm: Mm | None = None

    def __post_init__(self) -> None:
        found = self._gasket_faults()
        if self.laid_mm and not 0.3 <= self.laid_mm <= 40:
            found.append(Fault("laid_mm", f"Clay laid {mm_range(0.3, 40)} thick; empty if not known."))
        if not 0 <= self.gasket_known_to_mm <= 1:
            found.append(Fault("gasket_known_to_mm", f"Known to within {mm_range(0, 1)}."))
        found += [
            Fault(name, f"Lash of {mm_range(0, 3)}.")
            for name in ("lash_mm", "lash_exhaust_mm")
            if not 0 <= (getattr(self, name) or 0.0) <= 3
        ]
        if self.plunger_mm is not None and not 0.1 <= self.plunger_mm <= 8:
            found.append(
                Fault("plunger_mm", f"A plunger travel of {mm_range(0.1, 8)}, as the lifter’s maker gives it.")
            )
        if self.rocker_ratio is not None and not 1 <= self.rocker_ratio <= 3:
            found.append(Fault("rocker_ratio", "A ratio of 1 to 3, or empty for the engine’s own."))
        if not -30 <= self.cam_advance_deg <= 30:
            found.append(Fault("cam_advance_deg", "Within 30 crank degrees either way."))
        if not 0 <= self.shims_mm <= MOST_SHIMS_MM:
            found.append(Fault("shims_mm", f"Base shims of {mm_range(0, 10)}."))
        refuse(found)

    def _gasket_faults(self) -> list[Fault]:
        """Return the faults of a thickness: required for another gasket, allowed for a new one."""
        state, said = self.gasket_state, self.gasket_mm != 0
        wants = state is GasketState.COMPRESSED
        if (said or wants) and not 0.05 <= self.gasket_mm <= THICKEST_MM:
            return [Fault("gasket_mm", f"Say how thick it was: {mm_range(0.05, 6)}.")]
        if said and not wants and state is not GasketState.SNUGGED:
            return [Fault("gasket_mm", _NO_THICKNESS[state])]
        return []

    @property
    def bleeds(self) -> bool:
        """Whether its lifters may bleed down: they do, or it is not stated that they cannot."""
        return self.lifters in (Lifters.UNBLOCKED, Lifters.NOT_STATED)

    @property
    def hides_at_most_mm(self) -> float | None:
        """The most that lifters which bleed can hide, at the lifter [mm]; None where unbounded.

        Only under light springs: a running spring pumps a lifter and bends the train besides.
        """
        if self.lifters is not Lifters.UNBLOCKED or self.springs is not Springs.CHECKING:
            return None
        return self.plunger_mm

    @property
    def is_loaded(self) -> bool:
        """Whether its springs may bend the train: they do, or it is not stated that they are light."""
        return self.springs in (Springs.RUNNING, Springs.NOT_STATED)

    @property
    def tells_overlap(self) -> bool:
        """Whether overlap TDC was told from firing TDC by something that differs between the two."""
        return self.overlap in (Overlap.MOVING, Overlap.MARKS)

    @property
    def gasket(self) -> Value | None:
        """The thickness between head and deck [mm] with its u.

        None where it is only known relative to the final gasket; see ``against_final``.
        """
        if self.gasket_state is GasketState.UNKNOWN:
            return UNKNOWN_GASKET
        if self.gasket_state is GasketState.NONE:
            return Value(0.0)
        if not self.gasket_mm:
            return None
        snugged = self.gasket_state is GasketState.SNUGGED
        usual = SNUGGED_THICKNESS_U_MM if snugged else STATED_THICKNESS_U_MM
        return Value(self.gasket_mm, rectangular(self.gasket_known_to_mm) if self.gasket_known_to_mm else usual)

    @property
    def against_final(self) -> Value:
        """How much thicker the final gasket is than the mock-up's [mm], where ``gasket`` is None."""
        known = self.gasket_known_to_mm
        if self.gasket_state is GasketState.SAME_USED:
            return Value(0.0, rectangular(known or USED_MM))
        if self.gasket_state is GasketState.SNUGGED or self.only_snugged:
            return Value(-SQUEEZED_MM[0], rectangular(known or SQUEEZED_MM[1]))
        return Value(0.0)

    @property
    def only_snugged(self) -> bool:
        """Whether the final gasket was only snugged, and so is not compressed yet."""
        return self.gasket_state is GasketState.FINAL and self.bolts is Bolts.SNUGGED

    def lash_at_valve_mm(self, rocker_ratio: float | None, side: Side) -> float:
        """Return the lash at a valve of one side [mm]; lash at the pushrod counts times the ratio.

        Where the ratio is not stated, the steepest usual one is used, so that no lash is credited that may not exist.
        """
        own = self.lash_exhaust_mm if side is Side.EXHAUST else None
        lash = self.lash_mm if own is None else own
        return lash * ((rocker_ratio or STEEPEST_USUAL_RATIO) if self.lash_at is LashAt.PUSHROD else 1.0)
