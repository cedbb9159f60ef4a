"""The crown milled outside its reliefs: the flat comes down, the floors of the reliefs stay."""

from mockup.changes.change import Affected, Along, Change, ChangeKind, OfValve, Volume, caution
from mockup.changes.options import Range, WhatIfField, WorkedOn
from mockup.changes.pistons import RELIEF_SHARE, discs_cc
from mockup.engine.block import Engine
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.quantity.shown import bench_text
from mockup.quantity.value import Value


def _face(change: Change, row: ValveRow) -> Value | None:
    # A valve facing the flat gains all of it along its own axis; one over a relief gains nothing.
    if row.relief is not Relief.FLAT:
        return None
    return Value(change.amount, change.u_mm).scaled(row.axial_factor)


def _reliefs(change: Change, _cylinder: int, engine: Engine) -> Value:
    """Return the volume gained: the deck counts the whole bore as deeper, but an open relief loses nothing."""
    open_cc = sum(discs_cc(engine, side, change.amount) for side in Side if engine.row(side).relief is Relief.PARALLEL)
    return RELIEF_SHARE.scaled(-open_cc)


ChangeKind(
    "crown milled",
    name="CROWN_MILLED",
    order=95,
    range=Range(low=0.0, high=5.0, words="A crown milled by up to 5 mm (0.197 in)."),
    touches={
        Affected.DECK: Along(1.0),
        Affected.PAD: Along(1.0),
        Affected.CROWN: Along(1.0),
        Affected.FACE: OfValve(_face),
        Affected.PISTON: Volume(_reliefs),
    },
    leaves=frozenset({Affected.EDGE, Affected.CHAMBER, Affected.CAM, Affected.PUSHROD, "valve gap"}),
    in_words=lambda change, unit, _: f"crowns milled {bench_text(change.amount, unit)} outside the reliefs",
    again="Read every deck; fill the pistons; weigh and balance; measure the crown where it is thinnest.",
    caution=caution("It opens the quench and takes ratio. Never thinner than the piston’s maker allows."),
    worked_on=WorkedOn.PISTON,
    field=WhatIfField(
        name="crown", label="Crowns milled", group="Valves, lash and crowns", order=30, help_text="outside the reliefs"
    ),
)
