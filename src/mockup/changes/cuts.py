"""Metal off the block and off the head."""

from mockup.changes.change import Change
from mockup.changes.kind import Along, ChangeKind, Cut, Only, Pulled, Touched, Volume, WhatIfField, WorkedOn, caution
from mockup.engine.block import Engine, cylinder_volume
from mockup.quantity.shown import along_text
from mockup.quantity.value import Value, rectangular
from mockup.stations import Station

CHAMBER_SHARE = Value(0.80, rectangular(0.15))
"""How much of the bore's area a chamber opens at the head's face: common practice, no source."""


def _chamber(change: Change, cylinder: int, engine: Engine) -> Value:
    return CHAMBER_SHARE.scaled(-cylinder_volume(engine.sizes.bore_mm, change.at_mm(cylinder, engine)))


ChangeKind(
    "deck cut",
    name="DECK_CUT",
    order=10,
    along=True,
    is_length=False,
    least_mm=0.0,
    touches={
        Touched.DECK: Along(-1.0),
        Touched.FACE: Along(-1.0),
        Touched.EDGE: Along(-1.0),
        Touched.CROWN: Along(-1.0),
        Touched.PAD: Along(-1.0),
        Touched.PUSHROD: Along(-1.0),
    },
    leaves=frozenset({Touched.CHAMBER, Touched.PISTON, Touched.CAM}),
    said=lambda change, unit, _: f"deck cut {along_text(change.front_mm, change.rear_mm, unit)}",
    again="Read every deck; pushrod length; read again. An overhead cam retards: degree it.",
    caution=caution("A cut is for ever. Before balancing, not after."),
    worked_on=WorkedOn.BLOCK,
    station=Station.STACK,
    field=WhatIfField(name="deck", label="Off the deck", group="Stack", order=30),
    only=Only.ONE_DECK,
    pulled=Pulled(
        work=9.0,
        order=130,
        words="deck cut",
        gain="off the deck",
        cut=Cut(
            cures=(("quench", True), ("compression ratio", False)),
            label="Off the deck at most",
            help_text="empty: the deck is not cut",
            untried="a cut deck",
        ),
    ),
)

ChangeKind(
    "head cut",
    name="HEAD_CUT",
    order=20,
    along=True,
    is_length=False,
    least_mm=0.0,
    touches={
        # The head's flat comes down on its gasket with the face that is cut: the quench is what it was.
        Touched.FACE: Along(-1.0),
        Touched.EDGE: Along(-1.0),
        Touched.CROWN: Along(-1.0),
        Touched.CHAMBER: Volume(_chamber),
        Touched.PUSHROD: Along(-1.0),
    },
    leaves=frozenset({Touched.DECK, Touched.PAD, Touched.PISTON, Touched.CAM}),
    said=lambda change, unit, _: f"head cut {along_text(change.front_mm, change.rear_mm, unit)}",
    again="Fill the chambers; pushrod length; read again. An overhead cam retards: degree it.",
    caution=caution("A cut is for ever, and it brings the valves nearer. Intake faces may no longer meet."),
    worked_on=WorkedOn.HEAD,
    field=WhatIfField(name="head", label="Off the head", group="Stack", order=40),
    pulled=Pulled(
        work=6.0,
        order=120,
        words="head cut",
        gain="off the head",
        cut=Cut(
            cures=(("compression ratio", False),),
            label="Off the head at most",
            help_text="empty: heads are not cut",
            untried="a cut head",
        ),
    ),
)
