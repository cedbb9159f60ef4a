"""What each kind of change declares, against a table from geometry.

A unit off the deck or the head, or of a higher piston, takes a unit from every gap along the bore below it. The rest is
common practice, no source.
"""

from dataclasses import replace

import pytest

from mockup.base.stations import Station
from mockup.changes import affected
from mockup.changes.change import Along, ChangeKind, EffectFrom, OfValve, Volume
from mockup.changes.crown import CROWN_MILLED
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.options import WorkedOn
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, LASH_CHANGED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.changes.valves import VALVES_CHANGED, VALVES_SUNK
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.valves import Side
from mockup.quantity.value import Unit
from mockup.readings.sweep import DROP
from mockup.readings.valve_gap import VALVE_GAP
from tests.making import OTHER_CAM, change, engine, mockup, thou

DOWN, UP, VALVE, CC = Along(-1.0), Along(1.0), OfValve, Volume
LOBE, TIMING, UNKNOWN = EffectFrom.LOBE, EffectFrom.CAM_TIMING, EffectFrom.UNKNOWN
OF_ALL = (*affected.OF_THE_ENGINE, DROP, VALVE_GAP)
MOVES = {
    DECK_CUT: {"deck": DOWN, "face": DOWN, "edge": DOWN, "crown to head": DOWN, "quench pad": DOWN, "drop": DOWN,
               "pushrod length": DOWN},
    HEAD_CUT: {"face": DOWN, "edge": DOWN, "crown to head": DOWN, "drop": DOWN, "pushrod length": DOWN,
               "chamber volume": CC},
    PISTONS_CHANGED: {"deck": DOWN, "face": DOWN, "edge": DOWN, "crown to head": DOWN, "quench pad": DOWN, "drop": DOWN,
                      "piston volume": CC},
    CROWN_MILLED: {"deck": UP, "quench pad": UP, "crown to head": UP, "face": VALVE, "drop": VALVE,
                   "piston volume": CC},
    RELIEF_DEEPENED: {"face": VALVE, "drop": VALVE, "piston volume": CC},
    RELIEF_WIDENED: {"edge": VALVE},
    VALVES_CHANGED: {"face": VALVE, "edge": VALVE, "drop": VALVE, "valve gap": VALVE},
    VALVES_SUNK: {"face": VALVE, "drop": VALVE, "chamber volume": CC, "valve gap": UNKNOWN, "pushrod length": UNKNOWN},
    CAM_MOVED: {"face": LOBE, "cam timing": TIMING, "valve gap": UNKNOWN},
    CAMSHAFT_CHANGED: {"face": LOBE, "cam timing": UNKNOWN, "pushrod length": UNKNOWN, "valve gap": UNKNOWN},
    ROCKERS_CHANGED: {"face": LOBE, "pushrod length": UNKNOWN, "valve gap": UNKNOWN},
    GASKET_CHANGED: {}, SHIMS_CHANGED: {}, LASH_CHANGED: {}, PUSHRODS_CHANGED: {},
}  # fmt: skip
OF_THE_TRAIN = {CAM_MOVED, CAMSHAFT_CHANGED, ROCKERS_CHANGED, LASH_CHANGED}
OF_A_SIDE = {RELIEF_DEEPENED, RELIEF_WIDENED, VALVES_CHANGED, VALVES_SUNK, LASH_CHANGED}
ALONG = {DECK_CUT, HEAD_CUT, PISTONS_CHANGED, GASKET_CHANGED, SHIMS_CHANGED}
AMOUNTS = {
    CAM_MOVED: (-30, 30), ROCKERS_CHANGED: (-1, 1), RELIEF_DEEPENED: (0, 10), RELIEF_WIDENED: (0, 10),
    CROWN_MILLED: (0, 5), VALVES_CHANGED: (-20, 20), VALVES_SUNK: (0, 5), LASH_CHANGED: (-3, 3),
    PUSHRODS_CHANGED: (-20, 20), PISTONS_CHANGED: (-200, 200), CAMSHAFT_CHANGED: (0, 0),
}  # fmt: skip
WORKED_ON = {
    DECK_CUT: WorkedOn.BLOCK, HEAD_CUT: WorkedOn.HEAD, VALVES_CHANGED: WorkedOn.HEAD, VALVES_SUNK: WorkedOn.HEAD,
    PISTONS_CHANGED: WorkedOn.PISTON, CROWN_MILLED: WorkedOn.PISTON, RELIEF_DEEPENED: WorkedOn.PISTON,
    RELIEF_WIDENED: WorkedOn.PISTON,
}  # fmt: skip


def same(effect, wanted):
    """Whether an effect is the wanted one: the very one, or of the wanted sort."""
    return isinstance(effect, wanted) if isinstance(wanted, type) else effect == wanted


@pytest.mark.parametrize("kind", ChangeKind.all(), ids=str)
def test_a_change_moves_what_the_table_says_and_nothing_else(kind):
    for what in OF_ALL:
        effect, wanted = kind.effect_on(what), MOVES[kind].get(str(what))
        assert (effect is None) if wanted is None else same(effect, wanted), (str(kind), str(what), effect)


@pytest.mark.parametrize("kind", ChangeKind.all(), ids=str)
def test_a_change_has_the_amounts_and_the_place_of_the_table(kind):
    assert kind.of_the_train == (kind in OF_THE_TRAIN)
    assert kind.of_a_side == (kind in OF_A_SIDE)
    assert kind.along == (kind in ALONG)
    assert (kind.range and (kind.range.low, kind.range.high)) == AMOUNTS.get(kind)
    assert kind.least_mm == (0.0 if kind in (DECK_CUT, HEAD_CUT) else -10.0)
    assert kind.worked_on == WORKED_ON.get(kind, WorkedOn.NOTHING)
    assert kind.station == (Station.STACK if kind in (DECK_CUT, PISTONS_CHANGED) else Station.RIGHT)
    assert (kind.may_bring_gasket, kind.brings_cam) == (kind is GASKET_CHANGED, kind is CAMSHAFT_CHANGED)
    assert str(kind).replace(" ", "-") == kind.slug


THICK = FinalGasket(name="thick", compressed_mm=thou(51), bore_mm=97.5)


@pytest.mark.parametrize(
    ("made", "differs"),
    [
        (change(GASKET_CHANGED, gasket=THICK), {"gasket_state": GasketState.COMPRESSED, "gasket_mm": thou(51)}),
        (change(GASKET_CHANGED, 5), {}),
        (change(SHIMS_CHANGED, 10), {"shims_mm": thou(14)}),
        (change(SHIMS_CHANGED, -10), {"shims_mm": 0.0}),
        (change(CAM_MOVED, 2), {"cam_advance_deg": 0.0, "wheel_checked": False}),
        (change(CAMSHAFT_CHANGED), {"cam_advance_deg": 0.0, "wheel_checked": False}),
        (change(ROCKERS_CHANGED, 0.1), {"rocker_ratio": None}),
    ],
    ids=lambda one: str(one.kind) if hasattr(one, "kind") else "",
)
def test_the_next_mock_up_begins_with_what_was_changed(made, differs):
    last = mockup(shims_mm=thou(4))
    found = dict(made.kind.mocks_up(made, last))
    assert found.keys() == differs.keys()
    assert all(found[name] == (pytest.approx(value) if isinstance(value, float) else value)
               for name, value in differs.items())  # fmt: skip


def test_what_changes_the_engine_itself_is_in_the_engine_afterwards():
    before = engine(rocker_ratio=1.5)
    before = replace(before, exhaust=replace(before.exhaust, diameter_mm=38.0))
    after = ROCKERS_CHANGED.remakes(before, change(ROCKERS_CHANGED, 0.1))
    assert after == replace(before, rocker_ratio=1.6)
    larger = change(VALVES_CHANGED, 50, side=Side.EXHAUST)
    assert VALVES_CHANGED.remakes(before, larger).exhaust.diameter_mm == pytest.approx(38.0 + thou(50))
    assert [kind for kind in ChangeKind.all() if kind.remakes] == [ROCKERS_CHANGED, VALVES_CHANGED]


def test_a_change_says_what_was_done_to_which_part():
    words = {
        change(DECK_CUT, 5): "deck cut 5",
        change(CAM_MOVED, -4): "cam retarded 4°",
        change(CAM_MOVED, 2, side=Side.INTAKE): "intake cam advanced 2°",
        change(CAMSHAFT_CHANGED): f"another cam: {OTHER_CAM.name or 'by its card'}",
        change(LASH_CHANGED, -3, side=Side.EXHAUST): "exhaust lash",
    }
    for made, said in words.items():
        assert made.kind.in_words(made, Unit.INCH, 1.5).startswith(said)
