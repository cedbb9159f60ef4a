"""The least work: what the shop has, what may be cut, and the plans that are found in it."""

from dataclasses import replace

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.changes.pistons import RELIEF_DEEPENED
from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import CARD, thou
from tests.web import words
from tests.web.asking import gasket_of, page, post
from web.builds import services
from web.builds.models import Build
from web.shelf.models import ShelfGasket, ShelfShim
from web.shelf.services import put_on


def test_the_least_work_is_found_shown_and_made_the_plan(bench, carded):
    with scope(shop=carded.shop):
        pk = ShelfGasket.objects.get(name="thick").pk
    query = f"?find=1&gaskets={pk}&crown=200&least=150&cam=2,+4&head=20"
    answer = page(bench, carded, query)
    assert answer.status_code == 200
    first = answer.context["found"][0]
    assert first.words == ["exhaust reliefs 25 thou deeper"]
    assert [pair.label for pair in first.moved] == ["Exhaust", "Ratio"] or "Exhaust" in [p.label for p in first.moved]
    assert "Weigh the pistons" in first.again[0]
    assert post(bench, carded, plan="1", **dict(first.posted)).status_code == 302
    decided = making.items(carded, "change")
    assert [(one.kind, one.side, one.order) for one in decided] == [(RELIEF_DEEPENED, Side.EXHAUST, None)]
    assert decided[0].amount == pytest.approx(thou(25))


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("cam=fast", "Numbers with commas"),
        ("crown=200", "the present crown"),
        ("ratios=7", "Ratios of 1 to 3"),
        ("head=999", "From 0"),
        ("gaskets=99", "Select a valid choice"),
    ],
)
def test_limits_that_cannot_be_are_refused_at_their_field(bench, carded, query, words):
    answer = page(bench, carded, f"?find=1&{query}")
    assert answer.status_code == 422
    assert words in answer.content.decode()


def test_measuring_better_is_offered_before_anything_is_cut(bench, whole, member):
    making.write(whole, member, ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST), thickness_mm=thou(102)))
    said = page(bench, whole, "").content.decode()
    assert "Exhaust 2 reads 102 ±8.5; known to ±2 thou it is clear." in said


def test_where_nothing_helps_the_check_in_the_way_is_named(bench, carded):
    said = words(page(bench, carded, "?find=1&cam=2&head=5"))
    assert "Exhaust 2 is the obstacle" in said
    left_out = "another gasket, other rockers, deeper reliefs, wider reliefs, a cut deck."
    assert f"Not tried, because it is outside your limits: {left_out}" in said
    assert "nothing to try" in words(page(bench, carded, "?find=1"))


@pytest.mark.parametrize(
    ("typed", "words_said"), [("9999", "A step of 0 to 30 mm"), ("long", "not a length"), ("-5", "cannot be negative")]
)
def test_a_step_of_pushrods_that_cannot_be_is_refused_at_its_field(bench, rods, typed, words_said):
    answer = page(bench, rods, f"?find=1&pushrods={typed}")
    assert answer.status_code == 422
    assert words_said in str(answer.context["limits_form"].errors["pushrods"])
    assert answer.context["limits_form"]["pushrods"].value() == typed


def test_of_two_cams_each_is_moved_by_itself_and_one_cam_is_not_asked_about(bench, carded, member):
    assert "cams" not in page(bench, carded, "").context["limits_form"].fields  # its card has one cam
    making.write(carded, member, replace(CARD, two_cams=True))
    form = page(bench, carded, "").context["limits_form"]
    assert form["cams"].value() == "apart"
    found = page(bench, carded, "?find=1&cam=8,16&cams=apart").context["found"]
    assert [(plan.words, len(plan.cautions)) for plan in found] == [(["exhaust cam advanced 16°"], 1)]
    assert "lobe separation" in found[0].cautions[0]
    post(bench, carded, plan="1", **dict(found[0].posted))
    assert page(bench, carded).context["plan"][0].words == "exhaust cam advanced 16°"
    assert page(bench, carded, "?find=1&cam=4&cams=crosswise").status_code == 422


def test_the_least_work_on_separate_barrels_is_made_of_shims_that_lie_on_the_shelf(bench, member):
    twin = making.build(member, layout="flat", separate_barrels=True)
    making.mockup(twin, member, bolts="torqued", shims_mm=0.5)
    faces = {Side.INTAKE: 80, Side.EXHAUST: 115}  # level with the street sheet's 80 on both intakes: too close to call
    clays = [
        ClayReading(key="", mockup="A", place=Place(n, side), thickness_mm=thou(t))
        for n in (1, 2)
        for side, t in faces.items()
    ]
    decks = [DeckReading(key="", cylinder=n, clearance_mm=thou(4), shims_mm=0.5) for n in (1, 2)]
    making.write(
        twin, member, FinalGasket(compressed_mm=thou(36), bore_mm=97.0), BaseShims(total_mm=0.5), *decks, *clays
    )
    post(bench, twin, "verdict", change="1", limit="quench_high", length="80", reason="loose")
    assert page(bench, twin, "?find=1").context["found"] == []  # the shelf is empty
    with scope(shop=member.shop):
        for thickness in (0.5, 0.25):
            put_on(ShelfShim(thickness_mm=thickness, stock=1), member)
    assert "deck" not in page(bench, twin, "").context["limits_form"].fields
    found = page(bench, twin, "?find=1").context["found"]
    assert [plan.words for plan in found] == [["base shims 9.8 thou more"]]  # 0.75 for 0.5 mm
    post(bench, twin, plan="1", **dict(found[0].posted))
    assert page(bench, twin).context["plan"][0].words == "base shims 9.8 thou more"


@pytest.mark.parametrize(
    ("unit", "cuts", "depth"),
    [
        ("in", "5 thou (reliefs) and 1 thou (cuts)", "100 thou"),
        ("mm", "0.10 mm (reliefs) and 0.02 mm (cuts)", "2.00 mm"),
    ],
)
def test_steps_and_depths_are_said_in_the_unit_of_the_build(bench, carded, member, unit, cuts, depth):
    with scope(shop=carded.shop):
        services.save_build(Build.objects.get(pk=carded.pk), member, unit=unit)
    crown, least = ("200", "100") if unit == "in" else ("7", "5")
    said = words(page(bench, carded, f"?find=1&crown={crown}&least={least}"))
    assert f"reliefs up to {depth} deeper" in said
    assert f"Work in steps of {cuts}" in said


def test_pushrods_chosen_an_inch_off_are_named_as_in_the_way_and_break_nothing(bench, rods, member):
    wrong = PushrodChoice(low_mm=thou(45), aim_mm=thou(60), high_mm=thou(90), step_mm=thou(10), chosen_mm=6.44 * 25.4)
    making.write(rods, member, wrong)
    answer = page(bench, rods, "?find=1&pushrods=10&crown=200&least=100")
    assert answer.status_code == 200
    assert answer.context["found"] == []
    assert answer.context["obstacle"].kind is PUSHROD_CHECK
    assert "preload is the obstacle" in words(answer)


def test_what_is_asked_of_the_shop_depends_on_the_engine(bench, built, carded, rods, member):
    twin = making.build(member, layout="flat", separate_barrels=True, name="Twin")
    every = {"gaskets", "cam", "cams", "ratios", "pushrods", "crown", "least", "land", "land_least"}
    every |= {"head", "deck", "edge"}
    asked = {one: set(page(bench, one, "").context["limits_form"].fields) for one in (built, rods, twin)}
    assert asked[built] == every - {"pushrods"}  # no card says that it has one cam, no pushrods are chosen
    assert asked[rods] == every - {"cams"}
    assert asked[twin] == every - {"pushrods", "deck"}  # barrels have no deck to cut


def test_each_plan_is_posted_as_it_would_be_typed_and_comes_back_as_itself(bench, carded):
    answer = page(bench, carded, f"?find=1&cam=2,4&crown=200&least=100&head=20&gaskets={gasket_of(carded).pk}")
    assert len(answer.context["found"]) > 2
    for plan in answer.context["found"]:
        looked = page(bench, carded, f"?{plan.query}")
        assert set(looked.context["tried"].split("; ")) == set(plan.words)
        assert "would not be clear" not in looked.context["outlook"]


# In one look: the plans are there without being asked.


def fetched(bench, built):
    return bench.get(reverse("plans", args=[built.pk]))


def test_the_page_says_what_is_short_and_fetches_its_plans(bench, carded):
    answer = page(bench, carded)
    said = words(answer)
    worst = answer.context["shortest"][0]
    assert worst.label in said.partition("What fixes it")[0]
    assert "judged checks are clear" in said
    assert f'hx-get="{reverse("plans", args=[carded.pk])}"' in answer.content.decode()
    assert "found" not in answer.context
    plans = fetched(bench, carded)
    assert plans.context["found"]
    assert "<html" not in plans.content.decode()


def test_each_plan_shows_its_cost_what_follows_and_margins_before_and_after(bench, carded):
    answer = fetched(bench, carded)
    for plan in answer.context["found"]:
        assert plan.cost
        assert 1 <= len(plan.bars) <= 4
        short = plan.bars[0]
        assert short.moved
        assert short.state == "clear"
        assert short.was < short.now, "the margin grows to the right"
        assert short.low <= short.now <= short.high
        assert f"margin {plan.bars[0].words.partition('margin ')[2]}" in answer.content.decode()
    assert "measure it before anything is cut" in words(answer)


def test_a_fetched_plan_becomes_the_plan_as_it_was_shown(bench, carded):
    plan = fetched(bench, carded).context["found"][0]
    answer = post(bench, carded, plan="1", shown=plan.shown, **dict(plan.posted))
    assert answer.status_code == 302
    assert making.lines(carded, "change")


def test_where_all_is_clear_nothing_is_searched(bench, built, viewer, carded, stranger):
    assert "Nothing to fix" in words(fetched(bench, built))
    assert "Make it the plan" not in words(fetched(viewer, carded))
    assert fetched(stranger, carded).status_code == 404


OLD = {
    "least-work/?find=1&cam=2": "/put-right/?find=1&cam=2",
    "gains/": "/put-right/explore/#gains",
    "room/": "/put-right/explore/#room",
    "map/?across=cam&up=gasket": "/put-right/explore/?across=cam&up=gasket#map",
    "order/?quench=42": "/before-you-buy/?quench=42",
    "cams/": "/before-you-buy/cams/",
}


@pytest.mark.parametrize(("old", "new"), OLD.items())
def test_every_address_of_before_leads_to_where_it_is_now(bench, carded, old, new):
    answer = bench.get(f"/builds/{carded.pk}/put-right/{old}")
    assert (answer.status_code, answer.url) == (307, f"/builds/{carded.pk}{new}")
    assert bench.get(answer.url.partition("#")[0]).status_code == 200


def test_other_axes_of_the_map_come_alone(bench, carded):
    alone = page(bench, carded, "?part=map&across=rockers&up=gasket", "explore")
    assert "<html" not in alone.content.decode()
    assert alone.content.decode().strip().startswith("<section")
    assert alone.context["names"] == ("rockers", "gasket")
    assert "bars" not in alone.context
