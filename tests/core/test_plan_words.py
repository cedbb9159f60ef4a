"""Changes and plans in words: every kind, in both units, with what comes after it."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mockup.changes.change import Change, ChangeKind
from mockup.changes.cuts import DECK_CUT, HEAD_CUT
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_DEEPENED, RELIEF_WIDENED
from mockup.changes.since import change_words
from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.changes.train import CAM_MOVED, CAMSHAFT_CHANGED, LASH_CHANGED, PUSHRODS_CHANGED, ROCKERS_CHANGED
from mockup.changes.valves import VALVES_CHANGED, VALVES_SUNK
from mockup.engine.gasket import FinalGasket
from mockup.engine.valves import Side
from mockup.quantity.value import Unit
from tests.making import change, thou

INCH, MM = Unit.INCH, Unit.MILLIMETRE
THICK = FinalGasket(name="steel", compressed_mm=1.15, bore_mm=97.0)
INTAKE = {"side": Side.INTAKE}


def pistons(higher, more_cc):
    return Change(key="p", kind=PISTONS_CHANGED, front_mm=thou(higher), rear_mm=thou(higher), amount=more_cc)


@pytest.mark.parametrize(
    ("made", "unit", "said"),
    [
        (change(DECK_CUT, 10), INCH, "deck cut 10 thou"),
        (change(HEAD_CUT, front_mm=0.25, rear_mm=0.25), MM, "head cut 0.25 mm"),
        (change(DECK_CUT, front_mm=0.1, rear_mm=0.3), MM, "deck cut 0.10 front, 0.30 rear mm"),
        (change(SHIMS_CHANGED, 10), INCH, "base shims 10 thou more"),
        (change(SHIMS_CHANGED, -10), INCH, "base shims 10 thou less"),
        (change(GASKET_CHANGED, gasket=THICK), MM, "gasket steel 1.15 mm compressed"),
        (change(GASKET_CHANGED, 5), INCH, "gasket 5 thou thicker"),
        (change(GASKET_CHANGED, -5), INCH, "gasket 5 thou thinner"),
        (change(PISTONS_CHANGED, 4), INCH, "other pistons, crown 4 thou higher"),
        (pistons(-4, 2.5), INCH, "other pistons, crown 4 thou lower, 2.5 cc more room"),
        (pistons(4, -2.5), INCH, "other pistons, crown 4 thou higher, 2.5 cc less room"),
        (change(CAM_MOVED, 4.0), INCH, "cam advanced 4°"),
        (change(CAM_MOVED, -1.5, **INTAKE), MM, "intake cam retarded 1.5°"),
        (change(RELIEF_DEEPENED, 20, **INTAKE), INCH, "intake reliefs 20 thou deeper"),
        (change(RELIEF_WIDENED, 20, side=Side.EXHAUST), INCH, "exhaust reliefs 20 thou wider a side"),
        (change(VALVES_CHANGED, 40, **INTAKE), INCH, "intake valves 40 thou larger across"),
        (change(VALVES_CHANGED, -40, **INTAKE), INCH, "intake valves 40 thou smaller across"),
        (change(VALVES_SUNK, 5, **INTAKE), INCH, "intake valves sunk 5 thou"),
        (change(PUSHRODS_CHANGED, 50), INCH, "pushrods 50 thou longer"),
        (change(PUSHRODS_CHANGED, -50), MM, "pushrods 1.27 mm shorter"),
        (change(LASH_CHANGED, 2, **INTAKE), INCH, "intake lash 2 thou more"),
        (change(LASH_CHANGED, -2, **INTAKE), INCH, "intake lash 2 thou less"),
    ],
)
def test_a_change_is_said_with_its_unit_and_its_direction_and_never_a_bare_sign(made, unit, said):
    assert change_words(made, unit) == said


def test_rockers_are_said_with_the_ratio_they_replace_where_it_is_known():
    assert change_words(change(ROCKERS_CHANGED, 0.1), INCH, ratio=1.5) == "other rockers of 1.6 for 1.5, ratio +0.1"
    assert change_words(change(ROCKERS_CHANGED, -0.05), MM) == "other rockers, ratio −0.05"


def test_a_bank_is_named_only_where_there_are_several():
    cut = Change(key="c", kind=DECK_CUT, bank=1, front_mm=thou(5), rear_mm=thou(5))
    assert change_words(cut, INCH, many_banks=True) == "deck cut 5 thou on bank 2"
    assert change_words(cut, INCH) == "deck cut 5 thou"


def test_every_kind_says_what_must_be_done_again_and_every_cut_of_metal_warns():
    assert all(kind.again for kind in ChangeKind.all())
    for kind, words in ((RELIEF_DEEPENED, "never thinner"), (RELIEF_WIDENED, "top ring"), (VALVES_SUNK, "flow")):
        assert words in kind.caution(change(kind, 5, **INTAKE))
    assert all("for ever" in kind.caution(change(kind, 5)) for kind in (HEAD_CUT, DECK_CUT))
    assert "the other loses" in CAM_MOVED.caution(change(CAM_MOVED, 2.0))
    assert "lobe separation" in CAM_MOVED.caution(change(CAM_MOVED, 2.0, **INTAKE))
    assert LASH_CHANGED.caution(change(LASH_CHANGED, 2, **INTAKE)) == ""


@given(
    # A camshaft is said by its name, rockers by their ratio and a gasket by its thickness.
    st.sampled_from([k for k in ChangeKind.all() if k not in (ROCKERS_CHANGED, GASKET_CHANGED, CAMSHAFT_CHANGED)]),
    st.floats(0.02, 2.9),
    st.booleans(),
    st.sampled_from(list(Unit)),
)
def test_no_change_is_ever_said_with_a_bare_sign_or_without_its_unit(kind, size, backwards, unit):
    low = kind.range.low if kind.range else 0.0
    may_be_less = low < 0 or kind in (SHIMS_CHANGED, PISTONS_CHANGED)
    amount = -size if backwards and may_be_less else size
    along = kind in (DECK_CUT, HEAD_CUT, SHIMS_CHANGED, PISTONS_CHANGED)
    made = Change(
        key="c", kind=kind, side=Side.EXHAUST if kind.of_a_side else None,
        **({"front_mm": amount, "rear_mm": amount} if along else {"amount": amount}),
    )  # fmt: skip
    said = change_words(made, unit)
    assert not set("-−+") & set(said)
    assert ("°" if kind is CAM_MOVED else {INCH: "thou", MM: "mm"}[unit]) in said
    assert said != change_words(
        replace(made, **dict.fromkeys(("front_mm", "rear_mm"), 3.0) if along else {"amount": 3.0}), unit
    )
