"""What was changed on the engine after something was read of it: cut decks, other pistons, other gaskets or shims.

A change that is done has an order, its place among the changes of this build; every reading knows the order of
the last change before it (``Reading.after``), so that no clock is needed to say what a reading has not seen.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from mockup.engine.block import Engine
from mockup.faults import Fault, refuse
from mockup.quantity.ladder import Rung
from mockup.quantity.value import MM_PER_INCH, Value, rectangular

DEEPEST_MM = 10.0
CHANGE_U_MM = rectangular(0.0005 * MM_PER_INCH)
"""How truly a cut or a piston's height comes out, +-0.0005 in: common practice, no source."""


class ChangeKind(StrEnum):
    """What was changed."""

    DECK_CUT = "deck cut"
    PISTONS = "pistons"
    GASKET = "gasket"
    SHIMS = "shims"

    @property
    def moves_the_crown(self) -> bool:
        """Whether deck clearance itself is another one afterwards, and wants reading again."""
        return self in (ChangeKind.DECK_CUT, ChangeKind.PISTONS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One change. ``order`` is None while it is decided and not done yet.

    ``front_mm`` and ``rear_mm``: at the first and the last bore of the bank [mm], within +-10: metal cut off the
    deck (never negative), how much higher other pistons stand, how much thicker gasket or shims became.
    ``bank`` counts from 0; None is all of them. Raises FaultsError.
    """

    key: str
    kind: ChangeKind
    order: int | None = None
    bank: int | None = None
    front_mm: float = 0.0
    rear_mm: float = 0.0

    def __post_init__(self) -> None:
        least = 0.0 if self.kind is ChangeKind.DECK_CUT else -DEEPEST_MM
        amounts = {"front_mm": self.front_mm, "rear_mm": self.rear_mm}
        found = [
            Fault(name, f"An amount of {least:g} to {DEEPEST_MM:g} mm (0.394 in).")
            for name, amount in amounts.items()
            if not least <= amount <= DEEPEST_MM
        ]
        if self.kind is ChangeKind.DECK_CUT and not found and not self.front_mm and not self.rear_mm:
            found.append(Fault("front_mm", "A cut of nothing is no cut."))
        refuse(found)

    def touches(self, cylinder: int, engine: Engine) -> bool:
        """Whether this change is at ``cylinder``."""
        return self.bank is None or cylinder in engine.banks[self.bank]

    def at_mm(self, cylinder: int, engine: Engine) -> float:
        """The amount at ``cylinder`` [mm], in a straight line from the first bore of its bank to the last."""
        bank = next(bank for bank in engine.banks if cylinder in bank)
        share = bank.index(cylinder) / (len(bank) - 1) if len(bank) > 1 else 0.0
        return self.front_mm + share * (self.rear_mm - self.front_mm)


def done_since(changes: Iterable[Change], after: int) -> list[Change]:
    """The changes done since a reading whose last change before it was ``after``."""
    return [change for change in changes if change.order is not None and change.order > after]


def crown_age(changes: Iterable[Change], after: int, cylinder: int, engine: Engine) -> int:
    """Which engine a reading was of: the order of the last change of that crown or its deck before it, 0 before any."""
    before = (
        change.order
        for change in changes
        if change.order is not None
        and change.order <= after
        and change.kind.moves_the_crown
        and change.touches(cylinder, engine)
    )
    return max(before, default=0)


def crown_rungs(changes: Iterable[Change], after: int, cylinder: int, engine: Engine) -> tuple[Rung, ...]:
    """What the changes since a reading do to the height of one crown against the deck, one rung each [mm]."""
    words = {ChangeKind.DECK_CUT: "deck cut since it was read", ChangeKind.PISTONS: "other pistons since it was read"}
    return tuple(
        Rung(words[change.kind], Value(-change.at_mm(cylinder, engine), CHANGE_U_MM))
        for change in done_since(changes, after)
        if change.kind.moves_the_crown and change.touches(cylinder, engine)
    )
