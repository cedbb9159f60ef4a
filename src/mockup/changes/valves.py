"""Other valves, and valves sunk into their seats."""

import math
from dataclasses import replace

from mockup.changes import affected
from mockup.changes.change import Change, ChangeKind, EffectFrom, OfValve, Volume, caution
from mockup.changes.options import Range, WhatIfField, WorkedOn
from mockup.changes.pistons import discs_cc
from mockup.engine.block import Engine
from mockup.engine.valves import Relief, Side, ValveRow
from mockup.quantity.shown import bench_text, mm_text
from mockup.quantity.value import Value


def _face(change: Change, row: ValveRow) -> Value | None:
    # The larger rim of an inclined valve meets a flat crown sooner.
    if row.relief is not Relief.FLAT:
        return None
    return Value(-change.amount / 2 * math.tan(math.radians(row.inclination_deg)))


def _larger(engine: Engine, change: Change) -> Engine:
    assert change.side is not None
    row = engine.row(change.side)
    if not row.diameter_mm:
        return engine
    new = replace(row, diameter_mm=row.diameter_mm + change.amount)
    return replace(engine, intake=new) if change.side is Side.INTAKE else replace(engine, exhaust=new)


def _seats(change: Change, _cylinder: int, engine: Engine) -> Value:
    assert change.side is not None
    disc = discs_cc(engine, change.side, change.amount)
    return Value(disc, 0.05 * disc)


VALVES_CHANGED = ChangeKind(
    "valves",
    order=100,
    range=Range(low=-20.0, high=20.0, words=f"A valve within {mm_text(20)} of the old one."),
    of_a_side=True,
    touches={
        affected.FACE: OfValve(_face),
        affected.EDGE: OfValve(lambda change, _row: Value(-change.amount / 2, change.u_mm)),
    },
    leaves=frozenset(
        {affected.DECK, affected.CROWN, affected.PAD, affected.CHAMBER, affected.PISTON, affected.CAM, affected.PUSHROD}
    ),
    since="other valves",
    in_words=lambda change, unit, _: (
        f"{change.side} valves {bench_text(abs(change.amount), unit)} "
        f"{'larger' if change.amount >= 0 else 'smaller'} across"
    ),
    again="Read face and edge again; check seat, shroud and valve to valve.",
    worked_on=WorkedOn.HEAD,
    remakes=_larger,
    field=WhatIfField(
        name="valve", label="{side} larger", group="Valves, lash and crowns", order=10, help_text="across", signed=True
    ),
)

VALVES_SUNK = ChangeKind(
    "valves sunk",
    order=110,
    range=Range(low=0.0, high=5.0, words=f"Valves sunk by up to {mm_text(5)}."),
    of_a_side=True,
    touches={
        affected.FACE: OfValve(lambda change, _row: Value(change.amount, change.u_mm)),
        affected.CHAMBER: Volume(_seats),
        affected.PUSHROD: EffectFrom.UNKNOWN,
    },
    leaves=frozenset({affected.DECK, affected.EDGE, affected.CROWN, affected.PAD, affected.PISTON, affected.CAM}),
    in_words=lambda change, unit, _: f"{change.side} valves sunk {bench_text(abs(change.amount), unit)}",
    again="Spring height, tip height and pushrod length; fill the chambers; read again.",
    caution=caution("A sunk valve costs flow, and a seat can only be cut so deep."),
    worked_on=WorkedOn.HEAD,
    field=WhatIfField(name="sink", label="{side} sunk", group="Valves, lash and crowns", order=20),
)
