"""What was between head and deck, by its usual names, and what each does to a reading."""

import itertools

import pytest

from mockup.base.faults import FaultsError
from mockup.changes.change import Change
from mockup.changes.stack import GASKET_CHANGED
from mockup.checks.clearance import NO_FINAL_GASKET, UNKNOWN_STOOD
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import Bolts, MockUp
from mockup.evaluate import evaluate
from mockup.limits.judge import State
from mockup.quantity.typed import LengthError
from mockup.quantity.typed_train import parse_clay
from mockup.quantity.value import Unit
from mockup.quick.sums import GasketSum, PushrodSum
from tests.making import clay, job, mockup, thou

FINAL = FinalGasket(compressed_mm=thou(41))


def read(state, thickness=110, final=None, changes=(), **more):
    stood = mockup(**{"gasket_state": state, "gasket_mm": 0.0, "bolts": Bolts.TORQUED} | more)
    made = job(mockups=(stood,), clay=(clay(thickness),), final_gasket=final, changes=changes, deck=(), volumes=())
    return evaluate(made).of_kind(FACE_INTAKE_CHECK)[0]


@pytest.mark.parametrize(
    ("state", "more", "without", "chosen"),
    [
        (GasketState.FINAL, {}, 110, 110),
        (GasketState.SAME_USED, {}, 110, 110),
        (GasketState.SNUGGED, {}, 105, 105),
        (GasketState.SNUGGED, {"gasket_mm": thou(55)}, None, 96),
        (GasketState.NONE, {}, None, 151),
        (GasketState.COMPRESSED, {"gasket_mm": thou(60)}, None, 91),
        (GasketState.UNKNOWN, {}, 110, 103.5),  # the middle of 20 to 75 counts as what stood
    ],
)
def test_each_says_what_comes_off_with_a_final_gasket_and_without(state, more, without, chosen):
    unchosen, with_one = read(state, **more), read(state, final=FINAL, **more)
    if without is None:
        assert unchosen.figure is None
        assert unchosen.as_mocked_up.value == pytest.approx(thou(110))
        assert NO_FINAL_GASKET in unchosen.governing.cautions
    else:
        assert unchosen.figure.value == pytest.approx(thou(without))
    assert with_one.figure.value == pytest.approx(thou(chosen))


def test_what_is_known_less_surely_has_the_wider_u():
    states = (GasketState.FINAL, GasketState.SAME_USED, GasketState.SNUGGED, GasketState.UNKNOWN)
    doubts = [read(state).figure.u for state in states]
    assert all(less < more for less, more in itertools.pairwise(doubts))


def test_the_gasket_that_will_run_counts_as_snugged_under_bolts_that_were_only_snugged():
    torqued, snugged = (read(GasketState.FINAL, bolts=bolts) for bolts in (Bolts.TORQUED, Bolts.SNUGGED))
    assert snugged.figure.value == pytest.approx(torqued.figure.value - thou(5))
    assert snugged.figure.u > torqued.figure.u
    assert any("not compressed yet" in one for one in snugged.governing.cautions)


@pytest.mark.parametrize(("thickness", "state"), [(160, State.CLEAR), (95, State.CLOSE), (20, State.SHORT)])
def test_a_gasket_nobody_knows_is_judged_with_twenty_to_seventy_five_thou_at_both(thickness, state):
    found = read(GasketState.UNKNOWN, thickness)
    assert found.state is state
    assert UNKNOWN_STOOD in found.governing.cautions


def test_another_gasket_chosen_after_the_reading_is_counted_against_the_one_of_its_day():
    thicker = Change(key="g", kind=GASKET_CHANGED, order=1, front_mm=thou(10), rear_mm=thou(10))
    found = read(GasketState.FINAL, final=FinalGasket(compressed_mm=thou(51)), changes=(thicker,))
    assert found.figure.value == pytest.approx(thou(120))
    assert "final gasket changed since it was read" in found.carried


@pytest.mark.parametrize(
    ("state", "said"),
    [
        (GasketState.COMPRESSED, {}),
        (GasketState.FINAL, {"gasket_mm": 1.0}),
        (GasketState.SAME_USED, {"gasket_mm": 1.0}),
        (GasketState.NONE, {"gasket_mm": 1.0}),
        (GasketState.UNKNOWN, {"gasket_mm": 1.0}),
        (GasketState.SNUGGED, {"gasket_mm": 9.0}),
        (GasketState.FINAL, {"laid_mm": 90.0}),
    ],
)
def test_a_thickness_belongs_to_the_gaskets_that_have_one(state, said):
    with pytest.raises(FaultsError):
        MockUp(key="A", gasket_state=state, **said)


def test_no_print_is_over_what_was_laid_and_no_slice_is_thicker():
    typed = parse_clay("No print", Unit.INCH, thou(200))
    assert (typed.thickness_mm, typed.touched) == (pytest.approx(thou(200)), False)
    assert parse_clay("200", Unit.INCH, thou(200)).touched
    for text, laid, words in (
        ("no print", 0.0, "How thick"),
        ("201", thou(200), "laid"),
        ("over 300", thou(200), "laid"),
    ):
        with pytest.raises(LengthError, match=words):
            parse_clay(text, Unit.INCH, laid)


def test_a_slice_over_what_was_laid_that_is_there_already_is_asked_about():
    made = job(mockups=(MockUp(key="A", gasket_state=GasketState.FINAL, laid_mm=thou(100)),), clay=(clay(130),))
    assert any("laid" in question.text and question.evidence for question in evaluate(made).questions)


def test_a_pushrod_and_a_gasket_as_the_trade_adds_them_up():
    # Common practice, no source: 11.5 turns x 0.050 + 6.800 = 7.375; + 0.060 = 7.435.
    zero, order, near = PushrodSum(closed_mm=6.8 * 25.4, turns=11.5, preload_mm=thou(60)).lines()
    assert (zero.figure[:5], order.figure[:5], near.figure) == ("7.375", "7.435", "7.415 to 7.455 in")
    off, left = GasketSum(free_mm=thou(55), compressed_mm=thou(40), read_mm=thou(130)).lines()
    assert (off.figure[:2], left.figure[:3]) == ("15", "115")
