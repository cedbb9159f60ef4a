"""Other pistons, and metal off the present ones."""

from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Along, Change, ChangeKind, OfValve, Volume, caution
from mockup.changes.options import Cut, Range, RemedyOption, WhatIfField, WorkedOn
from mockup.engine.block import Engine, cylinder_volume
from mockup.engine.valves import Side
from mockup.quantity.shown import along_text, bench_text, mm_text
from mockup.quantity.value import Unit, Value, rectangular

RELIEF_SHARE = Value(0.55, rectangular(0.25))
"""The share of a valve's disc that a relief deeper by one unit takes from the crown: common practice, no source."""
USUAL_DIAMETER = {Side.INTAKE: 0.42, Side.EXHAUST: 0.36}
"""A valve's diameter relative to the bore where not known: common practice, no source."""
STATED_U_CC = rectangular(1.5)
"""Accuracy of a catalogue's piston volume, +-1.5 cm3: common practice, no source."""


def discs_cc(engine: Engine, side: Side, depth_mm: float) -> float:
    """Return the volume of the discs of one side's valves, ``depth_mm`` thick [cm3]."""
    row = engine.row(side)
    across = row.diameter_mm or engine.sizes.bore_mm * USUAL_DIAMETER[side]
    return cylinder_volume(across, depth_mm) * row.count


def _reliefs(change: Change, _cylinder: int, engine: Engine) -> Value:
    assert change.side is not None
    return RELIEF_SHARE.scaled(discs_cc(engine, change.side, change.amount))


def _pistons(change: Change, unit: Unit, _ratio: float | None) -> str:
    amount, more = along_text(change.front_mm, change.rear_mm, unit), change.front_mm >= 0
    volume = f", {abs(change.amount):g} cc {'more' if change.amount > 0 else 'less'} room" if change.amount else ""
    return f"other pistons, crown {amount} {'higher' if more else 'lower'}{volume}"


PISTONS_CHANGED = ChangeKind(
    "pistons",
    order=30,
    along=True,
    range=Range(low=-200.0, high=200.0, words="A piston volume 200 cc more or less at most."),
    is_length=False,
    touches={
        affected.DECK: Along(-1.0),
        affected.FACE: Along(-1.0),
        affected.EDGE: Along(-1.0),
        affected.CROWN: Along(-1.0),
        affected.PAD: Along(-1.0),
        affected.PISTON: Volume(lambda change, _cylinder, _engine: Value(change.amount, STATED_U_CC)),
    },
    leaves=frozenset({affected.CHAMBER, affected.CAM, affected.PUSHROD}),
    since="other pistons",
    in_words=_pistons,
    again="Everything of the crown: deck, volume, every valve; weigh and balance.",
    worked_on=WorkedOn.PISTON,
    station=Station.STACK,
    field=WhatIfField(
        name="piston",
        label="Other pistons, higher",
        group="Pistons, speed and rods",
        order=10,
        help_text="assuming the same reliefs",
        signed=True,
        own=True,
    ),
)

RELIEF_DEEPENED = ChangeKind(
    "relief deeper",
    order=80,
    range=Range(low=0.0, high=10.0, words=f"A relief deeper by up to {mm_text(10)}."),
    of_a_side=True,
    touches={
        affected.FACE: OfValve(lambda change, _row: Value(change.amount, change.u_mm)),
        affected.PISTON: Volume(_reliefs),
    },
    leaves=frozenset(
        {affected.DECK, affected.EDGE, affected.CROWN, affected.PAD, affected.CHAMBER, affected.CAM, affected.PUSHROD}
    ),
    in_words=lambda change, unit, _: f"{change.side} reliefs {bench_text(change.amount, unit)} deeper",
    again="Weigh the pistons and balance; fill their volume; read those valves again; every crown at its deepest.",
    caution=caution("Measure the crown under it before cutting: never thinner than the piston’s maker allows."),
    worked_on=WorkedOn.PISTON,
    field=WhatIfField(name="relief", label="{side} deeper", group="Reliefs", order=10, help_text="along the valve"),
    remedy=RemedyOption(
        work=7.0,
        order=80,
        words="{side} reliefs deeper",
        cost="pistons out, about four hours; weigh them again",
        sides=tuple(Side),
        gain="{side} reliefs deeper",
        cut=Cut(
            cures=(("intake face", False), ("exhaust face", False)),
            label="Reliefs deeper at most",
            help_text="",
            untried="deeper reliefs",
            fine=True,
            own=True,
        ),
    ),
)

RELIEF_WIDENED = ChangeKind(
    "relief wider",
    order=90,
    range=Range(low=0.0, high=10.0, words=f"A relief wider by up to {mm_text(10)} a side."),
    of_a_side=True,
    touches={affected.EDGE: OfValve(lambda change, _row: Value(change.amount, change.u_mm))},
    leaves=frozenset(
        {
            affected.DECK,
            affected.FACE,
            affected.CROWN,
            affected.PAD,
            affected.CHAMBER,
            affected.PISTON,
            affected.CAM,
            affected.PUSHROD,
        }
    ),
    in_words=lambda change, unit, _: f"{change.side} reliefs {bench_text(change.amount, unit)} wider a side",
    again="Weigh the pistons and balance; read the edge again.",
    caution=caution("Mind the top ring land; leave no sharp edge."),
    worked_on=WorkedOn.PISTON,
    field=WhatIfField(name="edge", label="{side} wider", group="Reliefs", order=20, help_text="a side"),
    remedy=RemedyOption(
        work=7.0,
        order=100,
        words="{side} reliefs wider",
        cost="pistons out, about four hours; weigh them again",
        sides=tuple(Side),
        gain="{side} reliefs wider",
        cut=Cut(
            cures=(("radial", False),),
            label="Reliefs wider at most, a side",
            help_text="empty: not widened",
            untried="wider reliefs",
            fine=True,
        ),
    ),
)
