"""Small things builders do: pushrods in hand, piston places, the other bank, an empty shelf."""

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.engine.gasket import FinalGasket, GasketState
from mockup.engine.valves import Place, Side
from mockup.plans.what_if import lash_left_mm
from mockup.plans.where_to_look import closest_by_the_cam_deg
from mockup.quantity.value import Unit
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.pushrods import PushrodReading
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import page, post
from web.shelf.models import ShelfGasket
from web.stations.stack.usual import usual_gaskets

INTAKE = Place(1, Side.INTAKE)


@pytest.fixture
def tried(built, member):
    making.mockup(built, member)
    rod = PushrodReading(key="", mockup="A", place=INTAKE, closed_mm=6.8 * 25.4, turns=11.5)
    making.write(built, member, rod)
    return built


def test_pushrods_in_hand_give_each_valve_its_preload(bench, tried):
    answer = page(bench, tried, "?lengths=7.400+7.450", "pushrods")
    said = words(answer)
    assert "7.400 7.450" in said
    ((label, side, gives),) = answer.context["in_hand"]
    assert (label, side) == ("Intake 1", Side.INTAKE)
    assert [one.left.value for one in gives] == pytest.approx([thou(25), thou(75)], abs=thou(6))
    assert "Enter the window it must be in" in said
    refused = page(bench, tried, "?lengths=long", "pushrods")
    assert "“long” is not a length" in words(refused)
    assert 'value="long"' in refused.content.decode()


def test_pistons_are_given_the_bores_with_the_least_spread(bench, built, member):
    decks = (DeckReading(key="", cylinder=one, clearance_mm=thou(down)) for one, down in ((1, 1), (2, 9)))
    making.write(built, member, *decks)
    answer = page(bench, built, "?heights=1.704+1.700", "deck")
    assert answer.context["places"].swaps == {1: 2, 2: 1}
    assert "From highest to lowest 8 becomes 0 thou." in words(answer)
    for typed, why in (("1.7", "Type 2 heights"), ("tall tall", "Type 2 heights"), ("1.7+9", "compression height of")):
        assert why in words(page(bench, built, f"?heights={typed}", "deck"))
    assert "Which piston in which bore" in words(page(bench, built, "", "deck"))


@pytest.fixture
def vee(member):
    return making.build(member, layout="vee", cylinders=4)


def test_a_head_moved_to_the_other_bank_is_asked_about(bench, vee, member):
    making.mockup(vee, member)
    making.write(vee, member, ClayReading(key="", mockup="A", place=INTAKE, thickness_mm=thou(95)))
    banks = vee.engine.banks
    other = next(one for bank in banks if 1 not in bank for one in bank)
    for name in ("clay", "sweep"):
        asked = words(page(bench, vee, f"?cylinder={other}", name))
        assert "checking springs are on the wrong ends" in asked
        same = next(one for one in banks[0] if one != 1)
        assert "on the wrong ends" not in words(page(bench, vee, f"?cylinder={same}", name))


@pytest.fixture
def decked(bench, built, member):
    making.write(built, member, *(DeckReading(key="", cylinder=one, clearance_mm=thou(2)) for one in (1, 2)))
    return built


def test_an_empty_shelf_offers_the_usual_thicknesses(bench, decked):
    with scope(shop=decked.shop):
        ShelfGasket.objects.all().delete()
    answer = page(bench, decked, "", "stack")
    assert answer.context["usual"]
    assert len(answer.context["options"]) == len(usual_gaskets(Unit.INCH)) == 8
    assert "thicknesses that many makers sell" in words(answer)
    best = answer.context["options"][0]
    assert best["fits"]
    assert post(bench, decked, "stack", take=best["pk"]).status_code == 302
    (gasket,) = making.items(decked, "gasket")
    assert gasket.compressed_mm / thou(1) == pytest.approx(float(best["thickness"]))
    assert (gasket.name, gasket.bore_mm) == ("", None)
    assert post(bench, decked, "stack", take="usual-9.9999").status_code == 404


def test_where_every_gasket_is_outside_the_one_to_order_is_named(bench, built, member):
    making.write(built, member, *(DeckReading(key="", cylinder=one, clearance_mm=thou(30)) for one in (1, 2)))
    answer = page(bench, built, "", "stack")
    assert answer.context["none_fits"]
    said = words(answer)
    assert "Every one of these is outside the window. Gasket to order: " in said
    assert reverse("to-order", args=[built.pk]) in answer.content.decode()


def test_next_is_a_link_on_every_page_also_to_another_cylinder_of_this_one(bench, whole):
    for name in ("deck", "clay", "verdict", "put-right"):
        answer = page(bench, whole, "", name)
        assert "data-next" in answer.content.decode().partition('class="next-step"')[2].partition("</p>")[0], name


def test_usual_reasons_to_strike_are_offered(bench, tried):
    html = page(bench, tried, "", "pushrods").content.decode()
    assert '<option value="clay torn">' in html
    assert 'list="strike-reasons"' in html


def test_the_order_asks_what_the_maker_will_ask(bench, whole):
    query = "?quench=42&face=5&ratio=10"
    answer = page(bench, whole, query, "order-sheet")
    said = words(answer)
    for asked in ("Retention", "Grooves", "Skirt clearance", "head diameter", "Left and right", "Spares", "Alloy"):
        assert asked in said
    asks = {ask.words: ask.answer for _, group in answer.context["asks"] for ask in group}
    assert asks["Bore, finished"] == "3.750 in"
    assert asks["Diameter"] == "", "what is not known stays a blank"
    assert page(bench, whole, query, "order-pdf").status_code == 200


def test_terms_are_explained_where_they_are_met(bench, whole):
    verdict = page(bench, whole, "", "verdict").content.decode()
    for key in ("inferred", "as-it-will-run", "u", "margin"):
        assert f"{reverse('glossary')}#{key}" in verdict
        assert f'id="{key}"' in bench.get(reverse("glossary")).content.decode()


def test_a_ratio_window_by_fuel_is_taken_with_its_reason(bench, whole):
    answer = page(bench, whole, "", "verdict")
    (first, second) = answer.context["by_fuel"]
    assert (first[1], second[1]) == ("9 to 9.5", "10 to 11")
    posted = {"limit": answer.context["ratio_window"], "length": second[1], "reason": second[0]}
    assert post(bench, whole, "verdict", change="1", **posted).status_code == 302
    limits = page(bench, whole, "", "verdict").context["report"].job.limits
    edits = {str(name): (edit.value, edit.reason) for name, edit in limits.edits.items()}
    assert edits["ratio_low"] == (10.0, second[0])
    assert edits["ratio_high"] == (11.0, second[0])


def test_where_to_look_first_follows_the_cam_until_the_valve_is_read(bench, carded, whole):
    answer = page(bench, carded, "?cylinder=1&valve=intake-1", "sweep")
    at = closest_by_the_cam_deg(answer.context["report"], Side.INTAKE)
    assert 0 < at < 25, "an intake comes nearest some degrees after overlap TDC"
    assert f"it comes nearest about {round(at)} ATDC" in words(answer)
    assert "By the cam it comes nearest" not in words(page(bench, whole, "?cylinder=1&valve=intake-1", "sweep"))
    exhaust = closest_by_the_cam_deg(answer.context["report"], Side.EXHAUST)
    assert -25 < exhaust < 0


def test_a_valve_that_seems_too_near_is_sent_to_the_indicator_before_clay_is_laid(bench, built, member):
    making.mockup(built, member, gasket_state=GasketState.FINAL, gasket_mm=0.0)
    decks = (DeckReading(key="", cylinder=one, clearance_mm=thou(down)) for one, down in ((1, 8), (2, 4)))
    making.write(built, member, FinalGasket(compressed_mm=thou(40), bore_mm=97.0), *decks)
    making.write(built, member, ClayReading(key="", mockup="A", place=INTAKE, thickness_mm=thou(88)))
    near = page(bench, built, "?cylinder=2", "clay")
    report = near.context["report"]
    seems = [check for check in report.checks if check.label == "Intake 2"]
    # 88 read over a gasket only snugged, 5 less once torqued, and a crown 4 nearer: 79 where 80 are asked.
    assert seems[0].inferred.figure.value == pytest.approx(thou(79))
    assert "Intake 2 seems within 5 thou (0.13 mm) of the minimum" in words(near)
    assert "clay cannot tell" not in words(page(bench, built, "?cylinder=1", "clay"))


def test_running_lash_stands_in_the_corrections_and_in_no_sum(bench, carded):
    answer = page(bench, carded, "?check=Intake 1", "verdict")
    report = answer.context["report"]
    left = lash_left_mm(report, Side.INTAKE)
    said = words(answer)
    assert bool(left) == ("running lash would add, never counted on" in said)


def test_base_circles_are_told_by_the_other_valve_too(bench, tried):
    said = words(page(bench, tried, "", "pushrods"))
    assert "the intake is on its base circle as the exhaust begins to open" in said


def test_a_minimum_is_typed_as_a_range_and_judged_by_its_lower_end(bench, whole):
    posted = {"limit": "face_intake", "length": "65 to 80", "reason": "mild street engine"}
    assert post(bench, whole, "verdict", change="1", **posted).status_code == 302
    limits = page(bench, whole, "", "verdict").context["report"].job.limits
    (edit,) = (edit for name, edit in limits.edits.items() if str(name) == "face_intake")
    assert edit.value == pytest.approx(thou(65))
    assert edit.reason == "mild street engine (asked as 65 to 80)"
    refused = post(bench, whole, "verdict", change="1", **posted | {"length": "65 to wide"})
    assert refused.status_code == 422


def test_an_upper_limit_is_not_typed_as_a_range(bench, whole):
    asked = {"limit": "quench_high", "length": "45 to 60", "reason": "a wide one"}
    refused = post(bench, whole, "verdict", change="1", **asked)
    assert refused.status_code == 422
    assert not page(bench, whole, "", "verdict").context["report"].job.limits.edits
