"""Decks from clay on the quench pads, for the gasket and the pistons to order."""

from dataclasses import replace

import pytest

from mockup.changes.change import Change
from mockup.changes.stack import GASKET_CHANGED
from mockup.checks.compression import RATIO_CHECK
from mockup.checks.quench import QUENCH_CHECK
from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.mockup import Bolts, Clay
from mockup.evaluate import evaluate
from mockup.plans.gasket_to_order import gasket_to_order, order_words
from mockup.plans.pistons_to_order import Wanted, pistons_to_order
from mockup.plans.what_if import WhatIf, supposed
from mockup.quantity.value import Unit
from tests.making import cut, deck, job, mockup, thou, volumes
from tests.making_readings import head

OVER_28 = mockup(gasket_state=GasketState.COMPRESSED, gasket_mm=thou(28))

OVER_FINAL = mockup(gasket_state=GasketState.FINAL, gasket_mm=0.0, bolts=Bolts.TORQUED)


def padded(*readings, **changes):
    return evaluate(job(**{"heads": readings, "deck": (), "mockups": (OVER_28,), "final_gasket": None} | changes))


def decks_of(report):
    return report.context.known_decks


def test_clay_less_the_gasket_is_the_deck_even_before_a_gasket_is_chosen():
    # 0.065 of clay over a gasket of 0.028 is a deck of 0.037: common practice, no source.
    (found,) = decks_of(padded(head(65))).values()
    assert found.by_clay
    assert found.clearance.value == pytest.approx(thou(37))
    # A slice, and a stated gasket: both count (GUM 5.1.2).
    assert found.clearance.u > evaluate(job(deck=(deck(1, 37),))).deck[1].clearance.u


@pytest.mark.parametrize("final_thou", [20, 28, 41])
def test_what_gasket_is_chosen_later_does_not_move_the_deck(final_thou):
    gasket = FinalGasket(compressed_mm=thou(final_thou), bore_mm=97.0)
    assert decks_of(padded(head(65), final_gasket=gasket))[1].clearance.value == pytest.approx(thou(37))


def test_over_the_final_gasket_its_thickness_is_taken_off():
    gasket = FinalGasket(compressed_mm=thou(41), bore_mm=97.0)
    over = padded(head(65), mockups=(OVER_FINAL,), final_gasket=gasket)
    assert decks_of(over)[1].clearance.value == pytest.approx(thou(24))
    assert decks_of(padded(head(65), mockups=(OVER_FINAL,))) == {}


def test_a_deck_that_was_read_goes_first_and_a_cut_counts():
    both = decks_of(padded(head(65), head(65, cylinder=2), deck=(deck(1, 30),)))
    assert (both[1].by_clay, both[2].by_clay) == (False, True)
    assert both[1].clearance.value == pytest.approx(thou(30))
    assert decks_of(padded(head(65), changes=(cut(6),)))[1].clearance.value == pytest.approx(thou(31))


def test_clay_that_was_not_pressed_tells_no_deck_and_dough_tells_it_worse():
    assert decks_of(padded(head(65, touched=False))) == {}
    firm, soft = (
        decks_of(padded(head(65), mockups=(replace(OVER_28, clay=kind),)))[1].clearance
        for kind in (Clay.MODELLING, Clay.DOUGH)
    )
    assert soft.value == firm.value
    assert soft.u > firm.u


def test_the_gasket_to_order_follows_and_says_that_clay_told_it():
    order = gasket_to_order(padded(head(29)))
    # A deck of 1 thou: 40 thou of quench by a gasket of 39.
    assert order.each[0].wanted.value == pytest.approx(thou(39))
    assert "1 of 2 decks known, 1 by clay on the pads" in order_words(order, Unit.INCH)
    by_both = gasket_to_order(padded(head(29), deck=(deck(1, 1), deck(2, 1))))
    assert by_both.rests_on == ""


def test_pistons_are_as_much_higher_as_the_pads_say():
    gasket = FinalGasket(compressed_mm=thou(28), bore_mm=97.0)
    report = padded(head(65), final_gasket=gasket)
    order = pistons_to_order(report.job, Wanted(quench_mm=thou(40), height_now_mm=40.0, height_step_mm=0.001))
    # A deck of 37 and a gasket of 28 are 65: 25 thou too much.
    assert order.higher_mm == pytest.approx(thou(25), abs=0.001)


def test_a_ratio_follows_with_a_caution_and_a_wider_u():
    gasket = FinalGasket(compressed_mm=thou(28), bore_mm=97.0)
    known = {"final_gasket": gasket, "volumes": volumes()}

    def ratio(report):
        return report.of_kind(RATIO_CHECK)[0]

    clay, read = ratio(padded(head(65), **known)), ratio(padded(deck=(deck(1, 37),), **known))
    assert clay.figure.value == pytest.approx(read.figure.value)
    assert clay.figure.u > read.figure.u
    assert any("clay on the quench pads" in words for words in clay.governing.cautions)
    assert {"chamber", "piston"} < set(clay.governing.evidence)
    order = pistons_to_order(padded(head(65), **known).job, Wanted(ratio=10.0))
    assert order.volume is not None


def test_another_gasket_as_a_what_if_moves_the_quench_and_not_the_deck():
    gasket = FinalGasket(compressed_mm=thou(28), bore_mm=97.0)
    for state in (OVER_28, OVER_FINAL):
        report = padded(head(65), mockups=(state,), final_gasket=gasket, volumes=volumes())
        thicker = Change(key="g", kind=GASKET_CHANGED, gasket=FinalGasket(compressed_mm=thou(40), bore_mm=97.0))
        after = evaluate(supposed(report.job, WhatIf(changes=(thicker,))))
        (before_deck, after_deck) = (decks_of(one)[1].clearance.value for one in (report, after))
        assert after_deck == pytest.approx(before_deck)
        (before_quench, after_quench) = (one.of_kind(QUENCH_CHECK)[0].figure.value for one in (report, after))
        assert after_quench - before_quench == pytest.approx(thou(12))
