"""Clay between crown and head: carried as a valve's clay is, with the same cautions."""

from dataclasses import replace

import pytest

from mockup.base.faults import FaultsError
from mockup.changes.change import Change
from mockup.changes.pistons import PISTONS_CHANGED
from mockup.changes.stack import GASKET_CHANGED
from mockup.checks.check import Trust
from mockup.checks.head_clay import CROWN_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.mockup import Bolts, Clay, Lifters, Springs
from mockup.evaluate import evaluate
from mockup.limits.judge import Bound, State
from mockup.readings.clay import HeadSpot
from tests.making import barrels, cut, job, mockup, thou
from tests.making_readings import head


def crown(*readings, **changes):
    """What clay on the pads says of the quench, where no deck was read."""
    return evaluate(job(**{"heads": readings, "deck": ()} | changes)).of_kind(QUENCH_CHECK)[0]


def pistons(order=1):
    return Change(key="pistons", kind=PISTONS_CHANGED, order=order, front_mm=thou(10), rear_mm=thou(10))


def test_the_gasket_counts_whole_along_the_bore():
    check = crown(head(40), final_gasket=FinalGasket(compressed_mm=thou(41), bore_mm=97.0))
    assert check.figure.value == pytest.approx(thou(45))
    assert [correction.text for correction in check.governing.corrections] == [
        "as read, one thickness",
        "gasket as mocked up, to the final one",
    ]


def test_without_a_final_gasket_there_is_no_figure_and_the_reason_is_said():
    check = crown(head(40), final_gasket=None)
    assert check.figure is None
    assert any("final gasket" in caution for caution in check.governing.cautions)


def test_the_thinnest_governs_and_all_are_its_evidence():
    check = crown(head(44), head(40), head(42))
    assert check.figure.value == pytest.approx(thou(40))
    assert len(check.governing.evidence) == 3


def test_a_cut_since_is_taken_off_whole_and_wants_reading_again():
    check = crown(head(50), changes=(cut(6),))
    assert check.figure.value == pytest.approx(thou(44))
    assert check.read_again


def test_a_cut_before_it_was_read_is_in_the_reading():
    check = crown(head(50, after=1), changes=(cut(6),))
    assert check.figure.value == pytest.approx(thou(50))
    assert not check.read_again


def test_other_pistons_since_void_it():
    check = crown(head(50), changes=(pistons(),))
    assert check.governing.trust is Trust.VOID
    assert check.figure is None


def test_only_readings_of_the_newest_engine_count_in_whichever_mock_up():
    older, newer = head(30), head(50, mockup="B", after=1)
    check = crown(older, newer, mockups=(mockup(), mockup(key="B")), changes=(cut(6),))
    assert check.governing.evidence == (newer.key,)
    assert check.others == ()


def test_a_gasket_chosen_between_two_readings_does_not_part_them():
    # Only what moves the crown makes another engine of it; a gasket choice is carried by its own rung.
    chosen = Change(key="g", kind=GASKET_CHANGED, order=1, front_mm=thou(3), rear_mm=thou(3))
    check = crown(head(40), head(44, after=1), changes=(chosen,))
    assert len(check.governing.evidence) == 2
    assert check.figure.value == pytest.approx(thou(40))


def test_a_head_only_snugged_near_the_limit_is_to_be_torqued():
    check = crown(head(37), mockups=(mockup(bolts=Bolts.SNUGGED),))
    assert any("torque it" in caution for caution in check.governing.cautions)


def test_base_shims_count_on_separate_barrels():
    shims = (BaseShims(cylinder=1, total_mm=thou(12)),)
    check = crown(head(40), engine=barrels(), final_shims=shims)
    assert check.figure.value == pytest.approx(thou(52))


@pytest.mark.parametrize(
    ("conditions", "trust", "bound"),
    [
        ({"lifters": Lifters.UNBLOCKED}, Trust.SOUND, Bound.EXACT),  # no valve moves here
        ({"springs": Springs.RUNNING}, Trust.SOUND, Bound.EXACT),
        ({"clay": Clay.PUTTY}, Trust.VOID, Bound.AT_MOST),
        ({"two_turns": False}, Trust.OPTIMISTIC, Bound.AT_MOST),
    ],
)
def test_of_the_conditions_only_those_of_the_clay_count(conditions, trust, bound):
    check = crown(head(60), mockups=(mockup(**conditions),))
    assert (check.governing.trust, check.governing.bound) == (trust, bound)


def test_dough_is_less_sure():
    assert crown(head(60), mockups=(mockup(clay=Clay.DOUGH),)).figure.u > crown(head(60)).figure.u


def test_clay_that_was_not_pressed_bounds_it_from_below():
    over = replace(head(60), touched=False)
    check = crown(over)
    assert (check.governing.bound, check.state) == (Bound.AT_LEAST, State.NOT_MEASURED)
    assert crown(over, head(36)).governing.bound is Bound.EXACT


def test_plug_and_dome_are_judged_by_their_own_minimum_and_never_required():
    (plug,) = evaluate(job(heads=(head(90, HeadSpot.PLUG),))).of_kind(CROWN_CHECK)
    assert (plug.label, plug.state, plug.required) == ("Plug 1", State.NO_MINIMUM, False)


def test_clay_on_the_pads_is_a_reading_of_the_quench_beside_the_decks():
    quench = evaluate(job(heads=(head(42),))).of_kind(QUENCH_CHECK)[0]
    assert quench.governing.method == "bridge and indicator"
    assert [other.method for other in quench.others] == ["clay, mock-up A"]


def test_clay_on_the_pads_governs_where_it_lies_far_under_the_deck_and_the_two_are_asked_about():
    report = evaluate(job(heads=(head(12),)))
    quench = report.of_kind(QUENCH_CHECK)[0]
    assert (quench.state, quench.governing.method) == (State.SHORT, "clay, mock-up A")
    assert len(quench.others) == 1
    assert any("It is the same gap" in question.text for question in report.questions)


def test_a_thickness_that_cannot_be_is_refused():
    with pytest.raises(FaultsError):
        head(2000)
