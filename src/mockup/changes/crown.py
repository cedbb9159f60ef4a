"""The crown milled outside its reliefs: the flat comes down, the floors of the reliefs stay."""

from mockup.changes import affected
from mockup.changes.change import Along, Change, ChangeKind, OfValve, Volume, caution
from mockup.changes.options import Range, WhatIfField, WorkedOn
from mockup.changes.pistons import RELIEF_SHARE, discs_cc
from mockup.engine.block import Engine
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.quantity.shown import bench_text, mm_text
from mockup.quantity.value import Value


def _face(change: Change, row: ValveRow) -> Value | None:
    # A valve facing the flat gains all of it along its own axis; one over a relief gains nothing.
    if row.relief is not Relief.FLAT:
        return None
    return Value(change.amount, change.u_mm).scaled(row.axial_factor)


def _reliefs(change: Change, _cylinder: int, engine: Engine) -> Value:
    """Return the volume gained: the whole bore is deeper, an open relief loses nothing."""
    open_cc = sum(discs_cc(engine, side, change.amount) for side in Side if engine.row(side).relief is Relief.PARALLEL)
    return RELIEF_SHARE.scaled(-open_cc)


CROWN_MILLED = ChangeKind(
    "crown milled",
    order=95,
    range=Range(low=0.0, high=5.0, words=f"A crown milled by up to {mm_text(5)}."),
    touches={
        affected.DECK: Along(1.0),
        affected.PAD: Along(1.0),
        affected.CROWN: Along(1.0),
        affected.FACE: OfValve(_face),
        affected.PISTON: Volume(_reliefs),
    },
    leaves=frozenset({affected.EDGE, affected.CHAMBER, affected.CAM, affected.PUSHROD}),
    in_words=lambda change, unit, _: f"crowns milled {bench_text(change.amount, unit)} outside the reliefs",
    again="Read every deck; fill the pistons; weigh and balance; measure the crown where it is thinnest.",
    caution=caution("It opens the quench and takes ratio. Never thinner than the piston’s maker allows."),
    worked_on=WorkedOn.PISTON,
    field=WhatIfField(
        name="crown", label="Crowns milled", group="Valves, lash and crowns", order=30, help_text="outside the reliefs"
    ),
)
