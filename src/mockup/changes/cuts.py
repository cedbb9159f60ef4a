"""Metal off the block and off the head."""

from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Along, Change, ChangeKind, Volume, caution
from mockup.changes.options import Cut, Only, RemedyOption, WhatIfField, WorkedOn
from mockup.engine.block import Engine, cylinder_volume
from mockup.quantity.shown import along_text
from mockup.quantity.value import Value, rectangular

CHAMBER_SHARE = Value(0.80, rectangular(0.15))
"""The share of the bore's area that a chamber opens at the head's face: common practice, no source."""


def _chamber(change: Change, cylinder: int, engine: Engine) -> Value:
    return CHAMBER_SHARE.scaled(-cylinder_volume(engine.sizes.bore_mm, change.at_mm(cylinder, engine)))


DECK_CUT = ChangeKind(
    "deck cut",
    order=10,
    along=True,
    is_length=False,
    least_mm=0.0,
    touches={
        affected.DECK: Along(-1.0),
        affected.FACE: Along(-1.0),
        affected.EDGE: Along(-1.0),
        affected.CROWN: Along(-1.0),
        affected.PAD: Along(-1.0),
        affected.PUSHROD: Along(-1.0),
    },
    leaves=frozenset({affected.CHAMBER, affected.PISTON, affected.CAM}),
    in_words=lambda change, unit, _: f"deck cut {along_text(change.front_mm, change.rear_mm, unit)}",
    again="Read every deck; pushrod length; read again. An overhead cam retards: degree it.",
    caution=caution("A cut is for ever. Before balancing, not after."),
    worked_on=WorkedOn.BLOCK,
    station=Station.STACK,
    field=WhatIfField(name="deck", label="Off the deck", group="Stack", order=30),
    only=Only.ONE_DECK,
    remedy=RemedyOption(
        work=9.0,
        order=130,
        words="deck cut",
        cost="the block stripped, to the machinist",
        gain="off the deck",
        cut=Cut(
            cures=(("quench", True), ("compression ratio", False)),
            label="Off the deck at most",
            help_text="empty: the deck is not cut",
            untried="a cut deck",
        ),
    ),
)

HEAD_CUT = ChangeKind(
    "head cut",
    order=20,
    along=True,
    is_length=False,
    least_mm=0.0,
    touches={
        # The head's flat comes down on its gasket with the face that is cut, so the quench does not change.
        affected.FACE: Along(-1.0),
        affected.EDGE: Along(-1.0),
        affected.CROWN: Along(-1.0),
        affected.CHAMBER: Volume(_chamber),
        affected.PUSHROD: Along(-1.0),
    },
    leaves=frozenset({affected.DECK, affected.PAD, affected.PISTON, affected.CAM}),
    in_words=lambda change, unit, _: f"head cut {along_text(change.front_mm, change.rear_mm, unit)}",
    again="Fill the chambers; pushrod length; read again. An overhead cam retards: degree it.",
    caution=caution("A cut is for ever, and it brings the valves nearer. Intake faces may no longer meet."),
    worked_on=WorkedOn.HEAD,
    field=WhatIfField(name="head", label="Off the head", group="Stack", order=40),
    remedy=RemedyOption(
        work=6.0,
        order=120,
        words="head cut",
        cost="the head to the machinist",
        gain="off the head",
        cut=Cut(
            cures=(("compression ratio", False),),
            label="Off the head at most",
            help_text="empty: heads are not cut",
            untried="a cut head",
        ),
    ),
)
