"""One change of the engine, done or only decided, and what readings have not seen of it.

A change that is done has an order, its place among the changes of this build; every reading knows the order of
the last change before it (``Reading.after``), so that no clock is needed to say what a reading has not seen.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Annotated

import numpy as np

from mockup.changes.kind import CHANGE_U_MM, DEEPEST_MM, Along, ChangeKind, Touched
from mockup.engine.block import Engine
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.faults import Fault, refuse
from mockup.quantity.fields import Amount, Mm, Name, Within
from mockup.quantity.ladder import Doubt, Rung
from mockup.quantity.value import Unit, Value


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One change. ``order`` is None while it is decided and not done yet.

    ``front_mm`` and ``rear_mm``: at the first and the last bore of the bank [mm], within +-10: metal cut off deck or
    head (never negative), how much higher other pistons stand, how much thicker gasket or shims became.
    ``bank`` counts from 0; None is all of them. ``amount`` of what is alike at every bore: cam advanced [deg], ratio
    more [1], relief deeper along the valve or wider a side, valve larger across, valve sunk, lash more, pushrods
    longer [mm], other pistons' volume more [cm3]. ``side`` where it is of one side's valves; a cam without a side is
    both. ``gasket``, ``cam``: the one that comes in; ``cam_was``: the cam that came out, known once it is done.
    ``supposed``: in a what-if; what other pistons would make void is carried.
    Raises FaultsError.
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
        if self.is_many:
            return
        kind = self.kind
        amounts = {"front_mm": self.front_mm, "rear_mm": self.rear_mm}
        found = [
            Fault(name, f"An amount of {kind.least_mm:g} to {DEEPEST_MM:g} mm (0.394 in).")
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
        if self.gasket is not None and kind is not ChangeKind.GASKET:
            found.append(Fault("gasket", "Only a change of gasket brings one in."))
        if (self.cam is not None) != (kind is ChangeKind.CAMSHAFT):
            found.append(Fault("cam", "Another cam, and nothing else, brings a cam in."))
        refuse(found)

    @property
    def is_many(self) -> bool:
        """Whether its amounts are arrays, one an engine: a change as a search supposes it, very many at once."""
        return any(isinstance(one, np.ndarray) for one in (self.front_mm, self.amount))

    @property
    def u_mm(self) -> float:
        """How truly it comes out [mm]; of many at once, nothing where it is not made."""
        if not self.is_many:
            return CHANGE_U_MM
        made = (np.asarray(self.front_mm) != 0) | (np.asarray(self.amount) != 0)
        u: float = np.where(made, CHANGE_U_MM, 0.0)  # type: ignore[assignment]
        return u

    def touches(self, cylinder: int, engine: Engine) -> bool:
        """Whether this change is at ``cylinder``."""
        return self.bank is None or cylinder in engine.banks[self.bank]

    def is_of(self, side: Side | None) -> bool:
        """Whether a reading of ``side``'s valves, or of no valve (None), is of something this change is of."""
        return self.side is None or side is None or self.side is side

    def at_mm(self, cylinder: int, engine: Engine) -> float:
        """The amount at ``cylinder`` [mm], in a straight line from the first bore of its bank to the last."""
        bank = next(bank for bank in engine.banks if cylinder in bank)
        share = bank.index(cylinder) / (len(bank) - 1) if len(bank) > 1 else 0.0
        return self.front_mm + share * (self.rear_mm - self.front_mm)


def done_since(changes: Iterable[Change], after: int) -> list[Change]:
    """The changes done since a reading whose last change before it was ``after``, in the order they were done."""
    found = [(change.order, change) for change in changes if change.order is not None and change.order > after]
    return [change for _, change in sorted(found, key=lambda pair: pair[0])] if found else []


def gasket_put_in(change: Change, instead_of: FinalGasket | None) -> Change:
    """A change of gasket with how much thicker it is than the one it replaces [mm]; others as they are."""
    if change.gasket is None or instead_of is None or change.gasket == instead_of:
        return change
    thicker = change.gasket.compressed_mm - instead_of.compressed_mm
    return replace(change, front_mm=thicker, rear_mm=thicker)


def cam_put_in(change: Change, instead_of: Camshaft | None) -> Change:
    """A change of camshaft with the one it replaces, None where nothing was known of it; others as they are."""
    return replace(change, cam_was=instead_of) if change.kind is ChangeKind.CAMSHAFT else change


def cam_swaps(changes: Iterable[Change]) -> list[Change]:
    """The changes of camshaft that were done, in the order they were done."""
    return [change for change in done_since(changes, 0) if change.kind is ChangeKind.CAMSHAFT]


def age_of(
    changes: Iterable[Change], after: int, cylinder: int | None, engine: Engine, what: Touched, side: Side | None = None
) -> int:
    """Which engine a reading was of: the order of the last change of ``what`` it read before it, 0 before any.

    ``cylinder`` None is a reading that stands for every cylinder.
    """
    before = (
        change.order
        for change in changes
        if change.order is not None
        and change.order <= after
        and change.kind.effect_on(what)
        and (cylinder is None or change.touches(cylinder, engine))
        and change.is_of(side)
    )
    return max(before, default=0)


def since_words(change: Change, done_to: str = "read") -> str:
    """What was changed since something was read (or filled, or tried), in a few words."""
    return f"{change.kind.since or change.kind} since it was {done_to}"


def change_words(change: Change, unit: Unit, *, many_banks: bool = False, ratio: float | None = None) -> str:
    """A change in one line. ``ratio`` [1] is the rocker ratio before it, where it is known."""
    where = f" on bank {change.bank + 1}" if many_banks and change.bank is not None and change.kind.along else ""
    return change.kind.said(change, unit, ratio) + where


def bore_rungs(changes: Iterable[Change], after: int, cylinder: int, engine: Engine, what: Touched) -> tuple[Rung, ...]:
    """What was changed along the bore since a reading of ``what``, one rung each [mm]."""
    found = []
    for change in done_since(changes, after):
        effect = change.kind.effect_on(what)
        if isinstance(effect, Along) and change.touches(cylinder, engine):
            amount = change.at_mm(cylinder, engine) if change.kind.along else change.amount
            found.append(Rung(since_words(change), Value(effect.factor * amount, change.u_mm), Doubt.CHANGES))
    return tuple(found)


def as_changed(engine: Engine, changes: Iterable[Change]) -> Engine:
    """The engine with every done change of its own figures in it: rocker ratio, valve diameters."""
    for change in done_since(changes, 0):
        if change.kind.remakes:
            engine = change.kind.remakes(engine, change)
    return engine


def advanced_since(changes: Iterable[Change], after: int, side: Side) -> float:
    """How far a side's cam was advanced since a reading [deg]."""
    return sum(
        change.amount for change in done_since(changes, after) if change.kind is ChangeKind.CAM and change.is_of(side)
    )


def ratio_at(designed: Engine, changes: Iterable[Change], after: int) -> float:
    """The rocker ratio [1] when a reading was taken, from the engine as designed."""
    before = (one for one in done_since(changes, 0) if one.order is not None and one.order <= after)
    return round(designed.ratio + sum(one.amount for one in before if one.kind is ChangeKind.ROCKERS), 6)


def last_order(changes: Iterable[Change]) -> int:
    """The order of the change that was done last, 0 before any."""
    return max((change.order or 0 for change in changes), default=0)
