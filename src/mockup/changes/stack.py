"""Another gasket and other base shims.

Their thickness is known, so arithmetic suffices and nothing becomes stale.
"""

from collections.abc import Mapping
from typing import Any

from mockup.changes import affected
from mockup.changes.change import Change, ChangeKind, caution
from mockup.changes.options import Only, RemedyOption, WhatIfField
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import MockUp
from mockup.quantity.shown import along_text, bench_text, mm_text
from mockup.quantity.value import Unit


def _gasket(change: Change, unit: Unit, _ratio: float | None) -> str:
    if change.gasket:
        thick = bench_text(change.gasket.compressed_mm, unit)
        return f"gasket {change.gasket.name or ''} {thick} compressed".replace("  ", " ")
    return f"gasket {along_text(change.front_mm, change.rear_mm, unit)} {_more(change, 'thicker', 'thinner')}"


def _more(change: Change, more: str, less: str) -> str:
    return more if change.front_mm >= 0 else less


def _with_its_gasket(change: Change, _last: MockUp) -> Mapping[str, Any]:
    if change.gasket is None:
        return {}
    return {"gasket_state": GasketState.COMPRESSED, "gasket_mm": change.gasket.compressed_mm}


GASKET_CHANGED = ChangeKind(
    "gasket",
    order=4,
    along=True,
    is_length=False,
    touches={},
    leaves=affected.OF_THE_ENGINE,
    in_words=_gasket,
    again=f"Nothing: it is arithmetic. Within {mm_text(0.127)} of a limit torque it and measure.",
    caution=caution("A thicker gasket opens the quench: watch knock margin as well as ratio."),
    mocks_up=_with_its_gasket,
    may_bring_gasket=True,
    field=WhatIfField(name="gasket", label="Gasket", group="Stack", order=10, own=True),
    remedy=RemedyOption(
        work=1.0, order=10, words="gasket", cost="a gasket of the shelf, the head off and on", gain="gasket thicker"
    ),
)

SHIMS_CHANGED = ChangeKind(
    "shims",
    order=6,
    along=True,
    is_length=False,
    touches={},
    leaves=affected.OF_THE_ENGINE,
    in_words=lambda change, unit, _: (
        f"base shims {along_text(change.front_mm, change.rear_mm, unit)} {_more(change, 'more', 'less')}"
    ),
    again="Read the deck of each barrel once on its new shims.",
    mocks_up=lambda change, last: {"shims_mm": max(last.shims_mm + change.front_mm, 0.0)},
    field=WhatIfField(name="shims", label="Base shims, more", group="Stack", order=20, signed=True),
    only=Only.SEPARATE_BARRELS,
    remedy=RemedyOption(
        work=1.5,
        order=20,
        words="base shims",
        cost="shims of the shelf, the barrels off and on",
        gain="base shims thicker",
    ),
)
