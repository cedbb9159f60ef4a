"""The crown milled outside its reliefs: the flat comes down, the floors of the reliefs stay where they are."""

from mockup.changes.change import Change
from mockup.changes.kind import Along, ChangeKind, OfValve, Range, Touched, Volume, WhatIfField, WorkedOn, caution
from mockup.changes.pistons import RELIEF_SHARE, discs_cc
from mockup.engine.block import Engine
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.quantity.shown import bench_text
from mockup.quantity.value import Value


def _face(change: Change, row: ValveRow) -> Value | None:
    # A valve that faces the flat has all of it along its own axis; one over a relief has nothing.
    if row.relief is not Relief.FLAT:
        return None
    return Value(change.amount, change.u_mm).scaled(row.axial_factor)


def _reliefs(change: Change, _cylinder: int, engine: Engine) -> Value:
    """The deck counts the whole bore deeper; where a relief was open, nothing was taken."""
    open_cc = sum(discs_cc(engine, side, change.amount) for side in Side if engine.row(side).relief is Relief.PARALLEL)
    return RELIEF_SHARE.scaled(-open_cc)


ChangeKind(
    "crown milled",
    name="CROWN_MILLED",
    order=95,
    range=Range(low=0.0, high=5.0, words="A crown milled by up to 5 mm (0.197 in)."),
    touches={
        Touched.DECK: Along(1.0),
        Touched.PAD: Along(1.0),
        Touched.CROWN: Along(1.0),
        Touched.FACE: OfValve(_face),
        Touched.PISTON: Volume(_reliefs),
    },
    leaves=frozenset({Touched.EDGE, Touched.CHAMBER, Touched.CAM, Touched.PUSHROD, "valve gap"}),
    said=lambda change, unit, _: f"crowns milled {bench_text(change.amount, unit)} outside the reliefs",
    again="Read every deck; fill the pistons; weigh and balance; measure the crown where it is thinnest.",
    caution=caution("It opens the quench and takes ratio. Never thinner than the piston’s maker allows."),
    worked_on=WorkedOn.PISTON,
    field=WhatIfField(
        name="crown", label="Crowns milled", group="Valves, lash and crowns", order=30, help_text="outside the reliefs"
    ),
)
