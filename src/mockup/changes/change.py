"""One change of the engine, done or decided, and the kinds of change.

What a change affects is stale until it is read again, and is carried meanwhile by the effect that is declared here. The
two classes are in one module because each needs the other.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import Enum
from types import MappingProxyType
from typing import Annotated, Any

import numpy as np

from mockup.base.faults import Fault, refuse
from mockup.base.registry import Declared
from mockup.base.stations import Station
from mockup.changes.options import Only, Range, RemedyOption, WhatIfField, WorkedOn
from mockup.engine.block import Engine
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import MockUp
from mockup.engine.valves import Side, ValveRow
from mockup.quantity.fields import Amount, Mm, Name, Within
from mockup.quantity.shown import mm_range
from mockup.quantity.value import MM_PER_INCH, Unit, Value, rectangular

CHANGE_U_MM = rectangular(0.0005 * MM_PER_INCH)
"""Accuracy of a cut or of a piston's height, +-0.0005 in: common practice, no source."""
DEEPEST_MM = 10.0


@dataclass(frozen=True, slots=True)
class Along:
    """An effect along the bore: ``factor`` times the whole amount at that bore; -1 or 1."""

    factor: float


@dataclass(frozen=True, slots=True)
class OfValve:
    """An effect along a valve or at its edge: returns the change of clearance [mm] or None."""

    figure: Callable[[Change, ValveRow], Value | None]


@dataclass(frozen=True, slots=True)
class Volume:
    """An effect on the volume of a cylinder's chamber or piston [cm3]."""

    figure: Callable[[Change, int, Engine], Value]


class EffectFrom(Enum):
    """Effects computed where they are used: from the lobe, the cam timing, or not known."""

    LOBE = "by the lobe"
    CAM_TIMING = "by the cam"
    UNKNOWN = "by nobody"


Effect = Along | OfValve | Volume | EffectFrom


class Affected(Declared):
    """A quantity read on an engine that a change can alter.

    ``takes``: the types of effect allowed on it. ``moved_by``: the effects of kinds declared before it, where they do
    not declare it themselves; ``left_by``: the kinds that do not affect it.
    """

    takes: tuple[type[Any], ...]
    moved_by: Mapping[ChangeKind, Effect] = MappingProxyType({})
    left_by: tuple[ChangeKind, ...] = ()


def _no_caution(_change: Change) -> str:
    return ""


def caution(words: str) -> Callable[[Change], str]:
    """Return a caution that is the same for every change of a kind."""
    return lambda _change: words


class ChangeKind(Declared):
    """One kind of change.

    ``touches``: what it makes stale, with the effect that carries it; ``leaves``: what it does not affect. ``along``:
    it has an amount at the first and the last bore of a bank [mm], at least ``least_mm``; otherwise, or also, one
    ``amount`` in ``range``. ``is_length``: that amount is a length [mm]. ``of_a_side``: it concerns the intake or the
    exhaust valves only. ``since``: its name once done. ``in_words``: it in one line, from the change, the unit and the
    rocker ratio before it if known [1]. ``again``: what must be redone after it. ``caution``: what to look out for.
    ``remakes``: its effect on the engine's own figures. ``mocks_up``: what differs in the next mock-up. ``station``:
    where it is decided and marked done. ``of_the_train``: it concerns the valve train, so a copy of the block does not
    keep it. ``only``: the engines it can be made in. ``may_bring_gasket``, ``brings_cam``: it names the part that comes
    in.
    """

    touches: Mapping[Affected, Effect]
    leaves: frozenset[Affected]
    in_words: Callable[[Change, Unit, float | None], str]
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
    remedy: RemedyOption | None = None
    only: Only = Only.ANY
    may_bring_gasket: bool = False
    brings_cam: bool = False

    def refuse_nonsense(self) -> None:
        """Raise ValueError where an effect does not fit its quantity, or no amount is declared."""
        for touched, effect in self.touches.items():
            if not isinstance(effect, touched.takes):
                wanted = " or ".join(one.__name__ for one in touched.takes)
                raise ValueError(f"ChangeKind “{self}” moves the {touched}: say how by {wanted}.")  # noqa: TRY004, all wrong declarations raise ValueError
        if self.is_length and self.range is None:
            raise ValueError(f"ChangeKind “{self}” has no amount of its own, so that none is a length.")
        if not self.along and self.range is None:
            raise ValueError(f"ChangeKind “{self}” has no amount: it is along the bore, or has a range.")

    def effect_on(self, what: Affected) -> Effect | None:
        """Return its effect on a quantity, None where it has none."""
        return self.touches.get(what) or what.moved_by.get(self)

    def is_told_of(self, what: Affected) -> bool:
        """Whether it is declared that this kind moves ``what``, or leaves it."""
        declared = (what in self.touches, what in self.leaves, self in what.moved_by, self in what.left_by)
        return any(declared)


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One change. ``order`` is None while it is decided and not done.

    ``front_mm`` and ``rear_mm``: at the first and the last bore of the bank [mm], within +-10: metal cut off deck or
    head (never negative), how much higher other pistons stand, how much thicker gasket or shims are. ``bank`` counts
    from 0; None is all. ``amount``, the same at every bore: cam advance [deg], increase of ratio [1], relief deeper
    along the valve or wider a side, valve larger across, valve sunk, more lash, longer pushrods [mm], more piston
    volume [cm3]. ``side``: whose valves it concerns; a cam without a side is both. ``gasket``, ``cam``: the one that
    comes in; ``cam_was``: the cam that came out, known once done. ``supposed``: part of a what-if, so that what other
    pistons would void is carried. Raises FaultsError.
    """

    key: Name
    kind: ChangeKind
    order: Annotated[int, Within(1, 1e9, "The first change is 1.")] | None = None
    bank: int | None = None
    front_mm: Mm = 0.0
    rear_mm: Mm = 0.0
    side: Side | None = None
    amount: Amount = 0.0
    gasket: FinalGasket | None = None
    cam: Camshaft | None = None
    cam_was: Camshaft | None = None
    supposed: bool = field(default=False, metadata={"file": False})

    def __post_init__(self) -> None:
        if self.is_batch:
            return
        kind = self.kind
        amounts = {"front_mm": self.front_mm, "rear_mm": self.rear_mm}
        found = [
            Fault(name, f"An amount of {mm_range(kind.least_mm, DEEPEST_MM)}.")
            for name, amount in amounts.items()
            if not kind.least_mm <= amount <= DEEPEST_MM
        ]
        if kind.least_mm == 0.0 and not found and not self.front_mm and not self.rear_mm:
            found.append(Fault("front_mm", "A cut of nothing is no cut."))
        low, high = (kind.range.low, kind.range.high) if kind.range else (0.0, 0.0)
        if not low <= self.amount <= high:
            found.append(Fault("amount", kind.range.words if kind.range else "This change has no such amount."))
        if kind.of_a_side and self.side is None:
            found.append(Fault("side", "Say of which valves: intake or exhaust."))
        if self.gasket is not None and not kind.may_bring_gasket:
            found.append(Fault("gasket", "Only a change of gasket brings one in."))
        if (self.cam is not None) != kind.brings_cam:
            found.append(Fault("cam", "Another cam, and nothing else, brings a cam in."))
        refuse(found)

    @property
    def is_batch(self) -> bool:
        """Whether its amounts are arrays, one for each engine of a batch."""
        return any(isinstance(one, np.ndarray) for one in (self.front_mm, self.amount))

    @property
    def u_mm(self) -> float:
        """Standard uncertainty of its amount [mm]; in a batch, 0 where the change is not made."""
        if not self.is_batch:
            return CHANGE_U_MM
        made = (np.asarray(self.front_mm) != 0) | (np.asarray(self.amount) != 0)
        u: float = np.where(made, CHANGE_U_MM, 0.0)  # type: ignore[assignment]
        return u

    def touches(self, cylinder: int, engine: Engine) -> bool:
        """Return whether this change is at ``cylinder``."""
        return self.bank is None or cylinder in engine.banks[self.bank]

    def is_of(self, side: Side | None) -> bool:
        """Return whether it concerns a reading of ``side``'s valves, or of no valve (None)."""
        return self.side is None or side is None or self.side is side

    def at_mm(self, cylinder: int, engine: Engine) -> float:
        """Return the amount at ``cylinder`` [mm], linear from the bank's first bore to its last."""
        bank = next(bank for bank in engine.banks if cylinder in bank)
        share = bank.index(cylinder) / (len(bank) - 1) if len(bank) > 1 else 0.0
        return self.front_mm + share * (self.rear_mm - self.front_mm)
