"""What was changed on the engine after something was read of it, and what each kind of change touches.

A change that is done has an order, its place among the changes of this build; every reading knows the order of
the last change before it (``Reading.after``), so that no clock is needed to say what a reading has not seen.
"""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Annotated

from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side, ValveRow
from mockup.faults import Fault, refuse
from mockup.quantity.fields import Amount, Mm, Name, Within
from mockup.quantity.ladder import Doubt, Rung
from mockup.quantity.value import MM_PER_INCH, Value, rectangular

DEEPEST_MM = 10.0
CHANGE_U_MM = rectangular(0.0005 * MM_PER_INCH)
"""How truly a cut or a piston's height comes out, +-0.0005 in: common practice, no source."""


class Touched(StrEnum):
    """What may be read of an engine, as far as a change can make it another one."""

    DECK = "deck"
    FACE = "face"
    EDGE = "edge"
    CROWN = "crown to head"
    PAD = "quench pad"
    CHAMBER = "chamber volume"
    PISTON = "piston volume"
    CAM = "cam timing"
    PUSHROD = "pushrod length"


class ChangeKind(StrEnum):
    """What was changed."""

    DECK_CUT = "deck cut"
    HEAD_CUT = "head cut"
    PISTONS = "pistons"
    GASKET = "gasket"
    SHIMS = "shims"
    CAM = "cam"
    ROCKERS = "rockers"
    RELIEF = "relief deeper"
    EDGE = "relief wider"
    VALVES = "valves"
    SINK = "valves sunk"
    LASH = "lash"
    PUSHRODS = "pushrods"

    @property
    def touches(self) -> frozenset[Touched]:
        """What is another one afterwards, and wants reading again."""
        return _TOUCHES[self]

    @property
    def is_length(self) -> bool:
        """Whether its ``amount`` is a length [mm]; others are degrees, ratios or volumes."""
        return self in (
            ChangeKind.RELIEF, ChangeKind.EDGE, ChangeKind.VALVES, ChangeKind.SINK, ChangeKind.LASH, ChangeKind.PUSHRODS
        )  # fmt: skip

    @property
    def of_a_side(self) -> bool:
        """Whether it is of the intake or the exhaust valves alone."""
        return self in (ChangeKind.RELIEF, ChangeKind.EDGE, ChangeKind.VALVES, ChangeKind.SINK, ChangeKind.LASH)


_TOUCHES = {
    ChangeKind.DECK_CUT: frozenset(
        {Touched.DECK, Touched.FACE, Touched.EDGE, Touched.CROWN, Touched.PAD, Touched.PUSHROD}
    ),
    # The head's flat comes down on its gasket with the face that is cut: the quench is what it was.
    ChangeKind.HEAD_CUT: frozenset({Touched.FACE, Touched.EDGE, Touched.CROWN, Touched.CHAMBER, Touched.PUSHROD}),
    ChangeKind.PISTONS: frozenset(
        {Touched.DECK, Touched.FACE, Touched.EDGE, Touched.CROWN, Touched.PAD, Touched.PISTON}
    ),
    # Gaskets and shims are as thick as they are: arithmetic is enough.
    ChangeKind.GASKET: frozenset(),
    ChangeKind.SHIMS: frozenset(),
    ChangeKind.CAM: frozenset({Touched.FACE, Touched.CAM}),
    ChangeKind.ROCKERS: frozenset({Touched.FACE, Touched.PUSHROD}),
    ChangeKind.RELIEF: frozenset({Touched.FACE, Touched.PISTON}),
    ChangeKind.EDGE: frozenset({Touched.EDGE}),
    ChangeKind.VALVES: frozenset({Touched.FACE, Touched.EDGE}),
    ChangeKind.SINK: frozenset({Touched.FACE, Touched.CHAMBER, Touched.PUSHROD}),
    ChangeKind.LASH: frozenset(),
    # A rod of another length is tried on the zero-lash length that is known.
    ChangeKind.PUSHRODS: frozenset(),
}

AMOUNT_RANGES = {
    ChangeKind.PISTONS: (-200.0, 200.0, "A piston volume 200 cc more or less at most."),
    ChangeKind.CAM: (-30.0, 30.0, "Within 30 crank degrees either way."),
    ChangeKind.ROCKERS: (-1.0, 1.0, "A ratio within 1 of the old one."),
    ChangeKind.RELIEF: (0.0, 10.0, "A relief deeper by up to 10 mm (0.394 in)."),
    ChangeKind.EDGE: (0.0, 10.0, "A relief wider by up to 10 mm (0.394 in) a side."),
    ChangeKind.VALVES: (-20.0, 20.0, "A valve within 20 mm (0.787 in) of the old one."),
    ChangeKind.SINK: (0.0, 5.0, "Valves sunk by up to 5 mm (0.197 in)."),
    ChangeKind.LASH: (-3.0, 3.0, "Lash within 3 mm (0.118 in) of the old one."),
    ChangeKind.PUSHRODS: (-20.0, 20.0, "Pushrods within 20 mm (0.787 in) of the old ones."),
}
"""What ``amount`` may be, by kind; of other kinds it is 0."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One change. ``order`` is None while it is decided and not done yet.

    ``front_mm`` and ``rear_mm``: at the first and the last bore of the bank [mm], within +-10: metal cut off deck or
    head (never negative), how much higher other pistons stand, how much thicker gasket or shims became.
    ``bank`` counts from 0; None is all of them. ``amount`` of what is alike at every bore: cam advanced [deg], ratio
    more [1], relief deeper along the valve or wider a side, valve larger across, valve sunk, lash more, pushrods
    longer [mm], other pistons' volume more [cm3]. ``side`` where it is of one side's valves; a cam without a side is
    both. ``gasket``: the one that comes in. ``supposed``: in a what-if; what other pistons would make void is carried.
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
    supposed: bool = field(default=False, metadata={"file": False})

    def __post_init__(self) -> None:
        least = 0.0 if self.kind in (ChangeKind.DECK_CUT, ChangeKind.HEAD_CUT) else -DEEPEST_MM
        amounts = {"front_mm": self.front_mm, "rear_mm": self.rear_mm}
        found = [
            Fault(name, f"An amount of {least:g} to {DEEPEST_MM:g} mm (0.394 in).")
            for name, amount in amounts.items()
            if not least <= amount <= DEEPEST_MM
        ]
        if least == 0.0 and not found and not self.front_mm and not self.rear_mm:
            found.append(Fault("front_mm", "A cut of nothing is no cut."))
        low, high, words = AMOUNT_RANGES.get(self.kind, (0.0, 0.0, "This change has no such amount."))
        if not low <= self.amount <= high:
            found.append(Fault("amount", words))
        if self.kind.of_a_side and self.side is None:
            found.append(Fault("side", "Say of which valves: intake or exhaust."))
        if self.gasket is not None and self.kind is not ChangeKind.GASKET:
            found.append(Fault("gasket", "Only a change of gasket brings one in."))
        refuse(found)

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
    return [change for _, change in sorted(found, key=lambda pair: pair[0])]


def gasket_put_in(change: Change, instead_of: FinalGasket | None) -> Change:
    """A change of gasket with how much thicker it is than the one it replaces [mm]; others as they are."""
    if change.gasket is None or instead_of is None or change.gasket == instead_of:
        return change
    thicker = change.gasket.compressed_mm - instead_of.compressed_mm
    return replace(change, front_mm=thicker, rear_mm=thicker)


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
        and what in change.kind.touches
        and (cylinder is None or change.touches(cylinder, engine))
        and change.is_of(side)
    )
    return max(before, default=0)


_TAKES_ROOM = (ChangeKind.DECK_CUT, ChangeKind.HEAD_CUT, ChangeKind.PISTONS)
"""What brings crown and head nearer along the bore, by its whole amount."""
_SINCE = {
    ChangeKind.PISTONS: "other pistons",
    ChangeKind.CAM: "cam moved",
    ChangeKind.ROCKERS: "other rockers",
    ChangeKind.VALVES: "other valves",
}


def since_words(change: Change, done_to: str = "read") -> str:
    """What was changed since something was read (or filled, or tried), in a few words."""
    return f"{_SINCE.get(change.kind, str(change.kind))} since it was {done_to}"


def bore_rungs(changes: Iterable[Change], after: int, cylinder: int, engine: Engine, what: Touched) -> tuple[Rung, ...]:
    """What the cuts and pistons since a reading of ``what`` do to it along the bore, one rung each [mm]."""
    return tuple(
        Rung(since_words(change), Value(-change.at_mm(cylinder, engine), CHANGE_U_MM), Doubt.CHANGES)
        for change in done_since(changes, after)
        if change.kind in _TAKES_ROOM and what in change.kind.touches and change.touches(cylinder, engine)
    )


def as_changed(engine: Engine, changes: Iterable[Change]) -> Engine:
    """The engine with every done change of its own figures in it: rocker ratio, valve diameters."""
    ratio, diameters = engine.rocker_ratio, {side: engine.row(side).diameter_mm for side in Side}
    for change in done_since(changes, 0):
        if change.kind is ChangeKind.ROCKERS:
            ratio += change.amount
        elif change.kind is ChangeKind.VALVES and change.side and diameters[change.side]:
            diameters[change.side] += change.amount
    if ratio == engine.rocker_ratio and all(engine.row(side).diameter_mm == diameters[side] for side in Side):
        return engine
    rows: dict[Side, ValveRow] = {side: replace(engine.row(side), diameter_mm=diameters[side]) for side in Side}
    return replace(engine, rocker_ratio=round(ratio, 6), intake=rows[Side.INTAKE], exhaust=rows[Side.EXHAUST])


def advanced_since(changes: Iterable[Change], after: int, side: Side) -> float:
    """How far a side's cam was advanced since a reading [deg]."""
    return sum(
        change.amount for change in done_since(changes, after) if change.kind is ChangeKind.CAM and change.is_of(side)
    )


def ratio_at(now: Engine, changes: Iterable[Change], after: int) -> float:
    """The rocker ratio [1] when a reading was taken, from the engine as it is now."""
    more = sum(change.amount for change in done_since(changes, after) if change.kind is ChangeKind.ROCKERS)
    return round(now.rocker_ratio - more, 6)


def last_order(changes: Iterable[Change]) -> int:
    """The order of the change that was done last, 0 before any."""
    return max((change.order or 0 for change in changes), default=0)
