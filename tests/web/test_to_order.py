"""Gasket and pistons to order: the page, its refusals, the sheet to the maker."""

import re

import pytest

from mockup.checks.quench import QUENCH_HIGH_LIMIT
from mockup.engine.gasket import FinalGasket
from mockup.engine.running import Running
from mockup.evaluate import evaluate
from mockup.readings.deck import DeckReading
from mockup.readings.volumes import VolumePart, VolumeReading
from tests import making_rows as making
from tests.making import cut, job, thou
from tests.web import words
from tests.web.asking import page
from web.builds.entry_kinds import LimitEdit
from web.page.order_form import OrderForm

ASKED = "?quench=45&face=10&ratio=9.2&height_now=1.6&intake_relief=80"


def ordered(client, built, query=ASKED):
    return page(client, built, query, "to-order")


def sheet(client, built, query=ASKED, name="order-sheet"):
    return page(client, built, query, name)


# The gasket


def test_with_nothing_typed_the_gasket_stands_there_cylinder_by_cylinder(bench, whole):
    answer = ordered(bench, whole, "")
    rows = answer.context["gasket_rows"]
    assert [row["cylinder"] for row in rows] == [1, 2]
    assert all("±" in row["wanted"] for row in rows)
    assert {pair.label for pair in answer.context["gasket_pairs"]} >= {"Intake", "Quench", "Ratio"}
    assert "Enter the targets for the pistons" in words(answer)


def test_the_quench_that_is_wanted_moves_every_cylinder_by_as_much(bench, whole):
    plain, more = (ordered(bench, whole, query).context["gasket_rows"] for query in ("", "?gasket_quench=60"))
    before, after = (float(rows[0]["wanted"].split()[0]) for rows in (plain, more))
    assert after != before
    assert after == pytest.approx(60 - 5)


def test_a_gasket_that_is_tried_shows_ratio_and_clearances_beside_it(bench, whole):
    answer = ordered(bench, whole, "?gasket_tried=30")
    pairs = {pair.label: pair for pair in answer.context["gasket_pairs"]}
    assert pairs["Ratio"].moved
    assert pairs["Intake"].moved
    assert "30 thou compressed" in words(answer)


def test_who_stops_it_is_said(bench, whole, member):
    narrow = LimitEdit(limit=QUENCH_HIGH_LIMIT, value=thou(36), reason="made-up")
    making.write(whole, member, narrow)
    answer = ordered(bench, whole, "")
    assert "its deck is not known well enough" in words(answer)
    assert sum(row["stops"] for row in answer.context["gasket_rows"]) == 1


def test_two_that_stop_it_are_named(bench, built, member):
    decks = (DeckReading(key="", cylinder=n, clearance_mm=thou(down)) for n, down in ((1, 0), (2, 30)))
    narrow = LimitEdit(limit=QUENCH_HIGH_LIMIT, value=thou(45), reason="made-up")
    making.write(built, member, *decks, narrow)
    answer = ordered(bench, built, "")
    assert "No single gasket keeps all inside: numbers 1 and 2 stop it." in words(answer)
    assert sum(row["stops"] for row in answer.context["gasket_rows"]) == 2


# The pistons


def test_pistons_are_solved_from_targets_with_what_each_figure_rests_on(bench, whole):
    answer = ordered(bench, whole)
    figures = {line.what: line for line in answer.context["ordered"]}
    assert re.match(r"1\.\d+ in · \d+\.\d+ mm ±", figures["Compression height"].figure)
    assert "2 of 2 decks read" in figures["Compression height"].rests_on
    assert "10 thou above the minimum" in figures["Intake relief, along the valve"].rests_on
    assert "reliefs included" in figures["Volume"].figure
    assert answer.context["section"].height in figures["Compression height"].figure
    assert "With them in" in words(answer)


@pytest.mark.parametrize(
    ("query", "field"),
    [
        ("?quench=900", "quench"),
        ("?ratio=2", "ratio"),
        ("?face=x", "face"),
        ("?face=5&crown=200", "crown_least"),
        ("?face=5&height_step=0", "height_step"),
        ("?face=5&volume_tolerance=99", "volume_tolerance"),
        ("?gasket_tried=900", "gasket_tried"),
        ("?ratio=nan", "ratio"),
    ],
)
def test_what_cannot_be_is_said_at_its_field_with_what_was_typed(bench, whole, query, field):
    answer = ordered(bench, whole, query)
    assert answer.status_code == 422
    assert answer.context["form"].errors[field]
    typed = query.split("=")[-1]
    assert f'value="{typed}"' in answer.content.decode()
    assert "order" not in (answer.context.get("ordered") or [])


def test_what_is_not_known_is_said_and_the_rest_is_solved(bench, built, member):
    answer = ordered(bench, built)
    said = words(answer)
    assert "Not solved: compression height: read the decks" in said
    making.mockup(built, member)
    making.write(built, member, FinalGasket(compressed_mm=thou(36), bore_mm=97.0))
    making.write(built, member, DeckReading(key="", cylinder=1, clearance_mm=thou(5)))
    assert "Compression height" in words(ordered(bench, built))


def test_a_cut_that_is_only_decided_is_counted_and_said(bench, whole, member):
    making.write(whole, member, cut(8, order=None))
    answer = ordered(bench, whole)
    assert "Counted as done: deck cut 8 thou" in words(answer) or "8 thou off the deck" in words(answer)
    assert len(answer.context["counted"]) == 1


def test_another_mass_moves_the_running_budget(bench, whole, member):
    making.write(whole, member, Running(compression_height_mm=40.0, rpm=7000.0))
    light, heavy = (ordered(bench, whole, f"{ASKED}&moving={mass}%20g").context["uses"] for mass in (600, 1200))
    assert light != heavy
    assert "would use" in heavy


# The sheet


def test_the_sheet_shows_the_same_figures_and_a_place_for_the_answer(bench, whole):
    lines = {line.what: line.figure for line in ordered(bench, whole).context["ordered"]}
    said = words(sheet(bench, whole))
    for what, figure in lines.items():
        assert what in said
        assert figure in said
    assert "The maker’s answer" in said
    assert "Can be made: ____" in said


def test_the_same_as_a_pdf(bench, whole):
    answer = sheet(bench, whole, name="order-pdf")
    assert answer["Content-Type"] == "application/pdf"
    assert answer.content[:5] == b"%PDF-"
    assert len(answer.content) > 5000


def test_a_sheet_of_nothing_or_of_nonsense_is_not_here(bench, whole):
    assert sheet(bench, whole, "").status_code == 404
    assert sheet(bench, whole, "?quench=900").status_code == 404
    assert sheet(bench, whole, "?ratio=x", "order-pdf").status_code == 404


def test_another_shop_has_none_of_it_and_a_viewer_all(viewer, stranger, whole):
    for name in ("to-order", "order-sheet", "order-pdf"):
        assert page(stranger, whole, ASKED, name).status_code == 404
        assert page(viewer, whole, ASKED, name).status_code == 200


def test_the_usual_steps_are_those_of_the_unit():
    report = evaluate(job(volumes=(VolumeReading(key="c", part=VolumePart.CHAMBER, cc=70.0),)))
    form = OrderForm(report, {"face": "5"})
    assert form.is_valid()
    assert form.item.height_step_mm == pytest.approx(thou(1))
    assert form.item.relief_step_mm == pytest.approx(thou(5))
