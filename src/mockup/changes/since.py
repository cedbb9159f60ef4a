"""What was changed since a reading was taken, and its effect on the reading.

A done change has an order, its position among the changes of its build. Every reading stores the order of the last
change before it (``Reading.after``), so no clock is needed to tell which changes came later.
"""

from collections.abc import Iterable
from dataclasses import replace

from mockup.changes.change import Affected, Along, Change
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, ROCKERS_CHANGED
from mockup.engine.block import Engine
from mockup.engine.camshaft import Camshaft
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.quantity.corrections import Correction, UncertaintySource
from mockup.quantity.value import Unit, Value


def done_since(changes: Iterable[Change], after: int) -> list[Change]:
    """Return the changes done after order ``after``, in the order they were done."""
    found = [(change.order, change) for change in changes if change.order is not None and change.order > after]
    return [change for _, change in sorted(found, key=lambda pair: pair[0])] if found else []


def gasket_put_in(change: Change, instead_of: FinalGasket | None) -> Change:
    """Return a gasket change with its thickness relative to the one it replaces [mm]."""
    if change.gasket is None or instead_of is None or change.gasket == instead_of:
        return change
    thicker = change.gasket.compressed_mm - instead_of.compressed_mm
    return replace(change, front_mm=thicker, rear_mm=thicker)


def cam_put_in(change: Change, instead_of: Camshaft | None) -> Change:
    """Return a camshaft change with the cam it replaces, None if unknown."""
    return replace(change, cam_was=instead_of) if change.kind is CAMSHAFT_CHANGED else change


def cam_swaps(changes: Iterable[Change]) -> list[Change]:
    """Return the done changes of camshaft, in the order they were done."""
    return [change for change in done_since(changes, 0) if change.kind is CAMSHAFT_CHANGED]


def age_of(
    changes: Iterable[Change],
    after: int,
    cylinder: int | None,
    engine: Engine,
    what: Affected,
    side: Side | None = None,
) -> int:
    """Return which engine a reading was of: the last change of ``what`` before it, 0 if none.

    ``cylinder`` None means a reading that holds for every cylinder.
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
    """Return a few words for what was changed since something was read (or filled, or tried)."""
    return f"{change.kind.since or change.kind} since it was {done_to}"


def change_words(change: Change, unit: Unit, *, many_banks: bool = False, ratio: float | None = None) -> str:
    """Return a change in one line. ``ratio`` [1] is the rocker ratio before it, if known."""
    where = f" on bank {change.bank + 1}" if many_banks and change.bank is not None and change.kind.along else ""
    return change.kind.in_words(change, unit, ratio) + where


def bore_corrections(
    changes: Iterable[Change], after: int, cylinder: int, engine: Engine, what: Affected
) -> tuple[Correction, ...]:
    """Return one correction [mm] for each change along the bore since a reading of ``what``."""
    found = []
    for change in done_since(changes, after):
        effect = change.kind.effect_on(what)
        if isinstance(effect, Along) and change.touches(cylinder, engine):
            amount = change.at_mm(cylinder, engine) if change.kind.along else change.amount
            found.append(
                Correction(since_words(change), Value(effect.factor * amount, change.u_mm), UncertaintySource.CHANGES)
            )
    return tuple(found)


def as_changed(engine: Engine, changes: Iterable[Change]) -> Engine:
    """Return the engine with done changes of its own figures: rocker ratio, valve diameters."""
    for change in done_since(changes, 0):
        if change.kind.remakes:
            engine = change.kind.remakes(engine, change)
    return engine


def advanced_since(changes: Iterable[Change], after: int, side: Side) -> float:
    """Return how far a side's cam was advanced since a reading [deg]."""
    return sum(
        change.amount for change in done_since(changes, after) if change.kind is CAM_MOVED and change.is_of(side)
    )


def ratio_at(designed: Engine, changes: Iterable[Change], after: int) -> float:
    """Return the rocker ratio [1] when a reading was taken, from the engine as designed."""
    before = (one for one in done_since(changes, 0) if one.order is not None and one.order <= after)
    return round(designed.ratio + sum(one.amount for one in before if one.kind is ROCKERS_CHANGED), 6)


def last_order(changes: Iterable[Change]) -> int:
    """Return the order of the last done change, 0 before any."""
    return max((change.order or 0 for change in changes), default=0)
