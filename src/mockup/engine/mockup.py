"""A mock-up: the conditions under which clearance readings are taken.

A result is worth nothing without its method, so every clearance reading belongs to one of these.
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

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
from mockup.faults import Fault, refuse
from mockup.quantity.fields import Mm, Most, Name, Words
from mockup.quantity.value import Value, rectangular

MOST_ALSO = 20
STEEPEST_USUAL_RATIO = 2.0
"""A rocker ratio that few engines go beyond: common practice, no source."""


class Bolts(StrEnum):
    """How the head was held down."""

    TORQUED = "torqued"
    SNUGGED = "snugged"


class Lifters(StrEnum):
    """What the valve train stood on."""

    SOLID = "solid"
    BLOCKED = "blocked"
    UNBLOCKED = "unblocked"
    NOT_SAID = "not said"


class Springs(StrEnum):
    """Light checking springs, or the ones the engine runs with."""

    CHECKING = "checking"
    RUNNING = "running"
    NOT_SAID = "not said"


class Overlap(StrEnum):
    """How overlap TDC was told from firing TDC, which is a whole turn of the crank away.

    A degree wheel on the crank reads the same at both.
    """

    NOT_SAID = "not said"
    MOVING = "both valves moving"
    MARKS = "cam marks"
    WHEEL = "wheel alone"


class Fasteners(StrEnum):
    """What held the head down."""

    OLD = "old"
    NEW = "new"
    STRETCH = "stretch"


class DialTurns(StrEnum):
    """How whole turns of the dial were counted: a dial looks the same a turn on."""

    NOT_SAID = "not said"
    COUNTER = "turns counter"
    COUNTED = "counted"


class PistonsIn(StrEnum):
    """Which way round the pistons stood in the mock-up."""

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
    GasketState.SAME_USED: "The same kind has the final gasket’s thickness: leave this empty, or say another one.",
    GasketState.NONE: "With no gasket there is no thickness; leave it empty.",
    GasketState.UNKNOWN: "A thickness is known: say which gasket it was, or leave this empty.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class MockUp:
    """One set of conditions, named by a letter.

    ``gasket_mm`` [mm], 0 to 6: compressed thickness of another gasket, free thickness of a new one only snugged (0
    where nobody said it), 0 with all else. ``laid_mm`` [mm], 0.3 to 40: how thick the clay was laid, 0 while nobody
    said it. ``lash_mm`` [mm], 0 to 3: lash left in during the check, measured at ``lash_at``. ``lash_exhaust_mm`` the
    exhaust's where it is another one. ``shims_mm`` [mm], 0 to 10: base shims under every barrel. ``rocker_ratio`` [1],
    1 to 3, where other rockers stood in. ``cam_advance_deg``: how far the cam stood in advance of where it will run
    [deg], within +-30. ``caps_as_run``: lash caps on or off as it will run. ``gasket_known_to_mm``: how truly the
    gasket's thickness is known, +- [mm], 0 for the usual of its state. ``two_turns``: the crank was turned two full
    turns by hand, so every valve opened once. ``springs_at``: which valves of which bank the checking springs sit on.
    ``also``: what else stood there that final assembly must know of, a line each. ``overlap``: how overlap TDC was told
    from firing TDC; ``dial_turns``: how whole turns of the indicator were counted. What nobody said counts as the less
    favourable answer. Raises FaultsError.
    """

    key: Name
    gasket_state: GasketState = GasketState.UNKNOWN
    gasket_mm: Mm = 0.0
    bolts: Bolts = Bolts.SNUGGED
    lifters: Lifters = Lifters.NOT_SAID
    springs: Springs = Springs.NOT_SAID
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
    overlap: Overlap = Overlap.NOT_SAID
    dial_turns: DialTurns = DialTurns.NOT_SAID

    def __post_init__(self) -> None:
        found = self._gasket_faults()
        if self.laid_mm and not 0.3 <= self.laid_mm <= 40:
            found.append(Fault("laid_mm", "Clay laid 0.3 to 40 mm thick (0.012 to 1.57 in); empty if not known."))
        if not 0 <= self.gasket_known_to_mm <= 1:
            found.append(Fault("gasket_known_to_mm", "Known to within 0 to 1 mm (0.039 in)."))
        found += [
            Fault(name, "Lash of 0 to 3 mm (0.118 in).")
            for name in ("lash_mm", "lash_exhaust_mm")
            if not 0 <= (getattr(self, name) or 0.0) <= 3
        ]
        if self.rocker_ratio is not None and not 1 <= self.rocker_ratio <= 3:
            found.append(Fault("rocker_ratio", "A ratio of 1 to 3, or empty for the engine’s own."))
        if not -30 <= self.cam_advance_deg <= 30:
            found.append(Fault("cam_advance_deg", "Within 30 crank degrees either way."))
        if not 0 <= self.shims_mm <= MOST_SHIMS_MM:
            found.append(Fault("shims_mm", "Base shims of 0 to 10 mm (0.394 in)."))
        refuse(found)

    def _gasket_faults(self) -> list[Fault]:
        """A thickness is of another gasket, which needs one, or of a new one; all others have none to be said."""
        state, said = self.gasket_state, self.gasket_mm != 0
        wants = state is GasketState.COMPRESSED
        if (said or wants) and not 0.05 <= self.gasket_mm <= THICKEST_MM:
            return [Fault("gasket_mm", "Say how thick it was: 0.05 to 6 mm (0.002 to 0.236 in).")]
        if said and not wants and state is not GasketState.SNUGGED:
            return [Fault("gasket_mm", _NO_THICKNESS[state])]
        return []

    @property
    def bleeds(self) -> bool:
        """Whether its lifters may bleed down: they do, or nobody said that they cannot."""
        return self.lifters in (Lifters.UNBLOCKED, Lifters.NOT_SAID)

    @property
    def is_loaded(self) -> bool:
        """Whether its springs may bend the train: they do, or nobody said that they are light."""
        return self.springs in (Springs.RUNNING, Springs.NOT_SAID)

    @property
    def tells_overlap(self) -> bool:
        """Whether overlap TDC was told from firing TDC by something that differs between the two."""
        return self.overlap in (Overlap.MOVING, Overlap.MARKS)

    @property
    def gasket(self) -> Value | None:
        """Thickness that stood between head and deck [mm], with how surely it is known.

        None where it is only known against the final gasket: ``against_final`` then.
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
        """How much thicker the gasket it will run is than what stood in the mock-up [mm], where ``gasket`` is None."""
        known = self.gasket_known_to_mm
        if self.gasket_state is GasketState.SAME_USED:
            return Value(0.0, rectangular(known or USED_MM))
        if self.gasket_state is GasketState.SNUGGED or self.only_snugged:
            return Value(-SQUEEZED_MM[0], rectangular(known or SQUEEZED_MM[1]))
        return Value(0.0)

    @property
    def only_snugged(self) -> bool:
        """Whether the gasket that will run stood under bolts that were only snugged: it is not compressed yet."""
        return self.gasket_state is GasketState.FINAL and self.bolts is Bolts.SNUGGED

    def lash_at_valve_mm(self, rocker_ratio: float | None, side: Side) -> float:
        """Lash as a valve of one side sees it [mm]; lash at the pushrod side counts times the ratio [1].

        Where nobody said the ratio, the steepest that is usual: what is left in is never credited.
        """
        own = self.lash_exhaust_mm if side is Side.EXHAUST else None
        lash = self.lash_mm if own is None else own
        return lash * ((rocker_ratio or STEEPEST_USUAL_RATIO) if self.lash_at is LashAt.PUSHROD else 1.0)
