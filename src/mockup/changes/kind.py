"""Kinds of change: what each touches and how, its words, its field, and its lever in a remedy.

What a change touches is made stale by it, and is carried by what is declared here until it is read again.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import Enum, StrEnum
from types import MappingProxyType
from typing import TYPE_CHECKING, Any

from mockup.declared import Declared
from mockup.engine.block import Engine
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side, ValveRow
from mockup.quantity.value import MM_PER_INCH, Unit, Value, rectangular
from mockup.stations import Station

if TYPE_CHECKING:
    from mockup.changes.change import Change

CHANGE_U_MM = rectangular(0.0005 * MM_PER_INCH)
"""How truly a cut or a piston's height comes out, +-0.0005 in: common practice, no source."""
DEEPEST_MM = 10.0


@dataclass(frozen=True, slots=True)
class Along:
    """Along the bore by its whole amount at that bore, for each unit along the bore what is read of it gets: -1, 1."""

    factor: float


@dataclass(frozen=True, slots=True)
class OfValve:
    """Along a valve, or at its edge: what a change makes of a clearance [mm]; None where it moves nothing there."""

    figure: Callable[[Change, ValveRow], Value | None]


@dataclass(frozen=True, slots=True)
class Volume:
    """What a change makes of the volume of a cylinder's chamber or piston [cm3]."""

    figure: Callable[[Change, int, Engine], Value]


class Told(Enum):
    """Effects that are reckoned where they are of use: by the lobe, by the cam's timing, or by nobody."""

    BY_THE_LOBE = "by the lobe"
    BY_THE_CAM = "by the cam"
    BY_NOBODY = "by nobody"


Effect = Along | OfValve | Volume | Told


class Touched(Declared):
    """What may be read of an engine, as far as a change can make it another one.

    ``takes``: the sorts of effect that can be reckoned on it. ``moved_by``: what kinds declared before it do to it,
    where they do not say so themselves, and ``left_by``: those that leave it as it is.
    """

    takes: tuple[type[Any], ...]
    moved_by: Mapping[ChangeKind, Effect] = MappingProxyType({})
    left_by: tuple[ChangeKind, ...] = ()


Touched("deck", name="DECK", order=10, takes=(Along,))
Touched("face", name="FACE", order=20, takes=(Along, OfValve, Told))
Touched("edge", name="EDGE", order=30, takes=(Along, OfValve))
Touched("crown to head", name="CROWN", order=40, takes=(Along,))
Touched("quench pad", name="PAD", order=50, takes=(Along,))
Touched("chamber volume", name="CHAMBER", order=60, takes=(Volume,))
Touched("piston volume", name="PISTON", order=70, takes=(Volume,))
Touched("cam timing", name="CAM", order=80, takes=(Told,))
Touched("pushrod length", name="PUSHROD", order=90, takes=(Along, Told))


class WorkedOn(StrEnum):
    """What a machinist has in hand for a change."""

    NOTHING = "nothing"
    PISTON = "piston"
    HEAD = "head"
    BLOCK = "block"


@dataclass(frozen=True, slots=True, kw_only=True)
class Range:
    """From where to where the amount of a change may lie, in its unit, and what to say of one outside."""

    low: float
    high: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIfField:
    """The field a change is typed into: its name, its label, in which group, how it is typed.

    ``{side}`` in a label is filled for a change of one side's valves. ``own``: the form makes this field itself.
    """

    name: str
    label: str
    group: str
    order: float
    help_text: str = ""
    signed: bool = False
    own: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """A change that can be made by any amount, and is solved for what it cures, in a shop's steps.

    ``cures``: kinds of check, by their words, and whether it is their upper limit that it brings them under. ``label``
    and ``help_text``: of the field that says how deep it may go. ``untried``: what it is called where it may not.
    ``fine``: it is cut in the steps of reliefs, else in those of heads and decks. ``own``: the form makes that field.
    """

    cures: tuple[tuple[str, bool], ...]
    label: str
    help_text: str
    untried: str
    fine: bool = False
    own: bool = False


class Only(StrEnum):
    """In which engines a change can be made."""

    ANY = "any"
    ONE_DECK = "one deck a bank"
    SEPARATE_BARRELS = "separate barrels"
    PUSHRODS_CHOSEN = "pushrods chosen"


@dataclass(frozen=True, slots=True, kw_only=True)
class Pulled:
    """What a kind of change is as part of a remedy: how much work against a gasket, of which sides, in what words.

    ``order``: when it is best done among the others. ``gain``: what one unit of it is called where gains are told;
    empty where they are not told of it. ``cut`` where it can be made by any amount.
    """

    work: float
    order: float
    words: str
    sides: tuple[Side | None, ...] = (None,)
    gain: str = ""
    cut: Cut | None = None


def _no_caution(_change: Change) -> str:
    return ""


def caution(words: str) -> Callable[[Change], str]:
    """A caution that is the same for every change of a kind."""
    return lambda _change: words


class ChangeKind(Declared):
    """What was changed.

    ``touches``: what this change makes stale, and how it is carried; ``leaves``: what it leaves as it is. ``along``: it
    has an amount at the first and the last bore of a bank [mm], ``least_mm`` at least; else, or besides, one ``amount``
    in ``range``. ``is_length``: that amount is a length [mm]. ``of_a_side``: it is of the intake or exhaust valves
    alone. ``since``: what it is called once done. ``said``: it in one line, from the change, the unit and the rocker
    ratio before it where that is known [1]. ``again``: what must be done again after it. ``caution``: what to mind.
    ``remakes``: what it makes of the engine's own figures. ``mocks_up``: what the next mock-up has otherwise than the
    last one. ``station``: where it is decided and marked done. ``of_the_train``: it is of the valve train, and no copy
    of the block keeps it. ``only``: in which engines it can be made.
    """

    touches: Mapping[Touched, Effect]
    leaves: frozenset[Touched]
    said: Callable[[Change, Unit, float | None], str]
    again: str
    field: WhatIfField
    along: bool = False
    least_mm: float = -DEEPEST_MM
    range: Range | None = None
    is_length: bool = True
    of_a_side: bool = False
    since: str = ""
    caution: Callable[[Change], str] = staticmethod(_no_caution)
    worked_on: WorkedOn = WorkedOn.NOTHING
    station: Station = Station.RIGHT
    of_the_train: bool = False
    remakes: Callable[[Engine, Change], Engine] | None = None
    mocks_up: Callable[[Change, MockUp], Mapping[str, Any]] | None = None
    pulled: Pulled | None = None
    only: Only = Only.ANY

    def refuse_nonsense(self) -> None:
        """Raise ValueError where an effect cannot be reckoned on what it is declared of, or nothing has an amount."""
        for touched, effect in self.touches.items():
            if not isinstance(effect, touched.takes):
                wanted = " or ".join(one.__name__ for one in touched.takes)
                raise ValueError(f"ChangeKind {self.name} moves the {touched}: say how by {wanted}.")  # noqa: TRY004, as with all that is declared wrong
        if self.is_length and self.range is None:
            raise ValueError(f"ChangeKind {self.name} has no amount of its own, so that none is a length.")
        if not self.along and self.range is None:
            raise ValueError(f"ChangeKind {self.name} has no amount: it is along the bore, or has a range.")

    def effect_on(self, what: Touched) -> Effect | None:
        """What it does to something read of an engine; None where it leaves it as it is."""
        return self.touches.get(what) or what.moved_by.get(self)

    def is_told_of(self, what: Touched) -> bool:
        """Whether anybody said if it moves ``what`` or leaves it."""
        said = (what in self.touches, what in self.leaves, self in what.moved_by, self in what.left_by)
        return any(said)
