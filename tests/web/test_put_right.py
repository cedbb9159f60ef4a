"""Putting it right in the browser's absence: what-ifs, the least work, the plan and what it makes stale."""

from dataclasses import replace

import pytest
from django.urls import reverse
from django_scopes import scope

from bench.builds import services
from bench.builds.kinds import item_of
from bench.builds.models import Entry, MockUp
from bench.shelf.models import ShelfGasket, ShelfShim
from bench.shelf.services import put_on
from mockup.checks.check import Kind
from mockup.engine.changes import Change, ChangeKind
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.running import Running
from mockup.engine.valves import Side
from mockup.readings.clay import ClayReading, Place
from mockup.readings.deck import DeckReading
from mockup.readings.pushrods import PushrodChoice, PushrodReading
from mockup.report import Verdict
from tests import making_rows as making
from tests.making import CARD, thou
from tests.web import words

TABS = ("put-right", "remedies", "sensitivity")


@pytest.fixture
def short(member):
    """A whole build with one exhaust short by 8 thou and a cam's card; a thicker gasket on the shelf."""
    built = making.read_build(member)
    reading = ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST), thickness_mm=thou(92))
    making.write(built, member, reading, CARD)
    with scope(shop=member.shop):
        put_on(ShelfGasket(name="thick", bore_mm=97.0, compressed_mm=round(thou(38), 6)), member)
        put_on(ShelfGasket(name="for another", bore_mm=120.0, compressed_mm=round(thou(51), 6)), member)
    return built


def page(client, built, query="", name="put-right"):
    return client.get(reverse(name, args=[built.pk]) + query)


def post(client, built, at="put-right", /, **fields):
    return client.post(reverse(at, args=[built.pk]), fields)


def gasket_of(built):
    with scope(shop=built.shop):
        return ShelfGasket.objects.get(name="thick")


def shown(answer):
    return {pair.label: pair for pair in answer.context["pairs"]}


def test_a_what_if_shows_every_kind_before_and_after_and_changes_nothing(bench, short):
    answer = page(bench, short, "?relief_exhaust=15&cam=-2")
    pairs = shown(answer)
    assert pairs["Exhaust"].before == "−8"
    assert pairs["Exhaust"].state == "too close to call"
    assert not pairs["Quench"].moved
    assert answer.context["tried"] == "exhaust reliefs 15 thou deeper; cam retarded 2°"
    assert "closest" in answer.content.decode()
    assert answer.context["report"].of_kind(Kind.FACE_EXHAUST)[1].figure.value == pytest.approx(thou(92))
    assert making.lines(short, "change") == []


def test_what_cannot_be_foretold_says_what_is_missing_for_it(bench, whole):
    answer = page(bench, whole, "?cam=4")
    assert shown(answer)["Intake"].after == "—"
    assert answer.context["lost"] == [
        "Cam or rockers were changed since and the lobe is not known: enter its card, or read again."
    ]
    assert answer.context["chart"] is None


def everything(built):
    """Every field of the what-if form, typed; only shims and pushrods are left out, which this build has not."""
    return {
        "gasket": gasket_of(built).pk, "deck": "2", "head": "3", "cam": "4", "ratio": "1.1", "lash_intake": "10",
        "lash_exhaust": "12", "relief_intake": "20", "relief_exhaust": "0.5mm", "edge_intake": "5", "edge_exhaust": "5",
        "valve_intake": "-20", "valve_exhaust": "10", "sink_intake": "4", "sink_exhaust": "4", "piston": "-5",
        "piston_cc": "-1,5", "rpm": "7000", "rod": "titanium",
    }  # fmt: skip


def test_only_gaskets_of_about_this_bore_are_offered_and_every_field_can_be_typed(bench, short):
    form = page(bench, short).context["form"]
    assert [words for _, words in form.fields["gasket"].choices] == ["as it is", "thick"]
    answer = post(bench, short, show="1", **everything(short))
    assert answer.status_code == 200
    item = answer.context["form"].item
    assert {change.kind for change in item.changes} == set(ChangeKind) - {ChangeKind.SHIMS, ChangeKind.PUSHRODS}
    amounts = {(change.kind, change.side): change.amount for change in item.changes}
    assert amounts[ChangeKind.VALVES, Side.INTAKE] == pytest.approx(-thou(20))
    assert amounts[ChangeKind.PISTONS, None] == -1.5
    assert item.rpm == 7000


@pytest.mark.parametrize(
    ("typed", "where", "words"),
    [
        ({"cam": "fast"}, "cam", "Enter a number"),
        ({"cam": "99"}, "cam", "Within 30 crank degrees"),
        ({"head": "999"}, "head", "An amount of 0 to 10 mm"),
        ({"relief_intake": "-5"}, "relief_intake", ""),
        ({"ratio": "9"}, "ratio", "A ratio within 1"),
        ({"ratio": "0.5"}, None, "A ratio of 1 to 3"),
        ({"rpm": "1e9"}, "rpm", "From 0"),
        ({"gasket": "12345"}, "gasket", "No gasket “12345”"),
        ({"rod": "cast iron"}, "rod", "Select a valid choice"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field_and_what_was_typed_stays(bench, short, typed, where, words):
    answer = post(bench, short, show="1", sink_intake="3", **typed)
    form = answer.context["form"]
    assert list(form.errors) == [where or "__all__"]
    assert words in str(form.errors)
    assert answer.status_code == 422
    assert form["sink_intake"].value() == "3"
    assert "pairs" not in answer.context


def test_a_what_if_is_kept_by_name_opened_again_compared_and_struck_out(bench, short):
    nameless = post(bench, short, keep="1", cam="-2")
    assert nameless.status_code == 422
    assert "Give it a name" in nameless.content.decode()
    assert post(bench, short, keep="1", name="later", cam="-2", relief_exhaust="15", rpm="7000").status_code == 302
    assert post(bench, short, keep="1", name="empty").status_code == 422
    kept = page(bench, short).context["kept"]
    assert [(line.name, line.words) for line in kept] == [
        ("later", "exhaust reliefs 15 thou deeper; cam retarded 2°; 7000 rpm")
    ]
    again = page(bench, short, f"?kept={kept[0].pk}")
    assert again.context["form"]["cam"].value() == "-2"
    assert shown(again)["Exhaust"].moved
    compared = page(bench, short, "?compare=1").context["compared"]
    assert [name for name, _ in compared] == ["later"]
    post(bench, short, strike=kept[0].key, reason="thought better of")
    assert page(bench, short).context["kept"] == []
    assert page(bench, short, "?kept=999999").status_code == 404


def test_a_kept_what_if_comes_back_into_every_field_as_the_same_what_if(bench, short):
    typed = post(bench, short, show="1", **everything(short)).context["form"].item
    post(bench, short, keep="1", name="all of it", **everything(short))
    again = page(bench, short, f"?kept={page(bench, short).context['kept'][0].pk}").context["form"]
    assert again.errors == {}
    assert (again.item.rpm, again.item.rod) == (typed.rpm, typed.rod)
    for was, now in zip(typed.changes, again.item.changes, strict=True):
        assert (now.kind, now.side, now.gasket) == (was.kind, was.side, was.gasket)
        assert (now.front_mm, now.rear_mm, now.amount) == pytest.approx((was.front_mm, was.rear_mm, was.amount))


def test_a_kept_what_if_whose_gasket_left_the_shelf_says_so_at_the_field(bench, short):
    post(bench, short, keep="1", name="thick one", gasket=gasket_of(short).pk)
    bench.post(reverse("shelf"), {"off": f"gasket-{gasket_of(short).pk}"})
    again = page(bench, short, f"?kept={page(bench, short).context['kept'][0].pk}")
    assert "No gasket “thick” of this bore is on the shelf." in again.content.decode()


def test_the_ratio_it_has_already_is_no_change(bench, short):
    assert post(bench, short, show="1", ratio="1").context["form"].item.changes == ()
    assert post(bench, short, plan="1", ratio="1").status_code == 422


def test_the_least_work_is_found_shown_and_made_the_plan(bench, short):
    with scope(shop=short.shop):
        pk = ShelfGasket.objects.get(name="thick").pk
    query = f"?find=1&gaskets={pk}&crown=200&least=150&cam=2,+4&head=20"
    answer = page(bench, short, query, "remedies")
    assert answer.status_code == 200
    first = answer.context["found"][0]
    assert first.words == ["exhaust reliefs 15 thou deeper"]
    assert [pair.label for pair in first.moved] == ["Exhaust", "Ratio"] or "Exhaust" in [p.label for p in first.moved]
    assert "Weigh the pistons" in first.again[0]
    assert post(bench, short, plan="1", **dict(first.posted)).status_code == 302
    decided = making.items(short, "change")
    assert [(one.kind, one.side, one.order) for one in decided] == [(ChangeKind.RELIEF, Side.EXHAUST, None)]
    assert decided[0].amount == pytest.approx(thou(15))


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("cam=fast", "Numbers with commas"),
        ("crown=200", "Both the crown"),
        ("ratios=7", "Ratios of 1 to 3"),
        ("head=999", "From 0"),
        ("gaskets=99", "Select a valid choice"),
    ],
)
def test_limits_that_cannot_be_are_refused_at_their_field(bench, short, query, words):
    answer = page(bench, short, f"?find=1&{query}", "remedies")
    assert answer.status_code == 422
    assert words in answer.content.decode()


def test_measuring_better_is_offered_before_anything_is_cut(bench, whole, member):
    making.write(whole, member, ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST), thickness_mm=thou(102)))
    said = page(bench, whole, "", "remedies").content.decode()
    assert "Exhaust 2 reads 102 ±4; known to ±2 thou it is clear." in said


def test_where_nothing_helps_the_check_in_the_way_is_named(bench, short):
    said = words(page(bench, short, "?find=1&cam=2&head=5", "remedies"))
    assert "Exhaust 2 is in the way" in said
    left_out = "another gasket, other rockers, deeper reliefs, wider reliefs, a cut deck."
    assert f"Not tried, because the limits leave it out: {left_out}" in said
    assert "nothing to try" in words(page(bench, short, "?find=1", "remedies"))


def test_a_step_marked_done_makes_stale_what_it_touches_and_begins_the_mock_up_that_proves_it(bench, short, member):
    post(bench, short, plan="1", relief_exhaust="15", gasket=gasket_of(short).pk)
    lines = page(bench, short).context["plan"]
    assert [line.words for line in lines] == ["gasket thick 38 thou compressed", "exhaust reliefs 15 thou deeper"]
    for line in lines:
        assert post(bench, short, done=line.key).status_code == 302
        assert post(bench, short, done=line.key).status_code == 302
    with scope(shop=short.shop):
        latest = MockUp.objects.filter(build=short).last()
        assert Entry.objects.filter(build=short, kind="done").count() == 2
    assert latest.letter == "B"
    assert latest.gasket_mm == pytest.approx(thou(38))
    report = page(bench, short).context["report"]
    assert report.job.final_gasket.name == "thick"
    exhaust = report.of_kind(Kind.FACE_EXHAUST)[1]
    assert exhaust.figure.value == pytest.approx(thou(92 + 15 + 2))
    assert exhaust.read_again
    assert report.verdict is Verdict.UNFINISHED
    assert "Clay again: Exhaust 1, Exhaust 2" in " ".join(step.text for step in report.steps)
    again = [ClayReading(key="", mockup="B", place=Place(n, Side.EXHAUST), thickness_mm=thou(112)) for n in (1, 2)]
    making.write(short, member, *again)
    proved = page(bench, short).context["report"].of_kind(Kind.FACE_EXHAUST)[1]
    assert not proved.read_again
    assert proved.figure.value == pytest.approx(thou(112))


def test_a_step_is_struck_out_undone_or_with_its_mark(bench, short):
    post(bench, short, plan="1", head="5")
    line = page(bench, short).context["plan"][0]
    post(bench, short, done=line.key)
    done = page(bench, short).context["plan"][0]
    post(bench, short, strike=done.done_key, reason="was not cut after all")
    assert not page(bench, short).context["plan"][0].done
    refused = post(bench, short, strike=line.key, reason=" ")
    assert refused.status_code == 422
    assert "Say why it is struck out" in refused.content.decode()
    post(bench, short, strike=line.key, reason="gasket instead")
    assert page(bench, short).context["plan"] == []
    assert post(bench, short, done="change-1").status_code == 404


def test_shims_put_in_as_a_step_are_written_down_as_chosen(bench, member):
    barrels = making.build(member, layout="flat", separate_barrels=True)
    making.mockup(barrels, member, shims_mm=0.5)
    post(bench, barrels, plan="1", shims="10")
    line = page(bench, barrels).context["plan"][0]
    assert line.words == "base shims 10 thou more"
    post(bench, barrels, done=line.key)
    report = page(bench, barrels).context["report"]
    assert report.job.final_shims[0].total_mm == pytest.approx(thou(10))
    assert [change.front_mm for change in report.job.changes if change.key == line.key] == [0.0]


@pytest.fixture
def rods(bench, short, member):
    """The short build with a pushrod tried and one of 7.440 in chosen, for 45 to 90 thou of preload."""
    tried = {
        "mockup": "A",
        "place": Place(1, Side.INTAKE),
        "closed_mm": 6.8 * 25.4,
        "turns": 11.5,
        "pitch_mm": thou(50),
    }
    choice = PushrodChoice(low_mm=thou(45), aim_mm=thou(60), high_mm=thou(90), step_mm=thou(10), chosen_mm=7.44 * 25.4)
    making.write(short, member, PushrodReading(key="", **tried), choice)
    post(bench, short, "verdict", change="1", limit="quench_high", length="80", reason="made-up")
    with scope(shop=member.shop):
        put_on(ShelfGasket(name="thickest", bore_mm=97.0, compressed_mm=round(thou(50), 6)), member)
    return short


def test_pushrods_that_a_thicker_gasket_asks_for_are_part_of_the_plan_and_chosen_once_done(bench, rods):
    form = page(bench, rods, "", "remedies").context["form"]
    assert form["pushrods"].value() == "0.01 in"
    with scope(shop=rods.shop):
        gasket = ShelfGasket.objects.get(name="thickest").pk
    alone = page(bench, rods, f"?find=1&gaskets={gasket}", "remedies")
    assert alone.context["found"] == []
    assert "other pushrods" in words(alone)
    (plan,) = page(bench, rods, f"?find=1&gaskets={gasket}&pushrods=10", "remedies").context["found"]
    assert plan.words == ["gasket thickest 50 thou compressed", "pushrods 10 thou longer"]
    assert "Try one of the new length" in plan.again[1]
    post(bench, rods, plan="1", **dict(plan.posted))
    for line in page(bench, rods).context["plan"]:
        assert post(bench, rods, done=line.key).status_code == 302
    report = page(bench, rods).context["report"]
    assert report.job.pushrods_chosen.chosen_mm == pytest.approx(7.45 * 25.4)
    (check,) = report.of_kind(Kind.PUSHROD)
    assert check.figure.value == pytest.approx(thou(75 - 14))
    assert "Pushrods 7.450 in" in words(page(bench, rods, "", "assembly"))


@pytest.mark.parametrize(
    ("typed", "words_said"), [("9999", "A step of 0 to 30 mm"), ("long", "not a length"), ("-5", "cannot be negative")]
)
def test_a_step_of_pushrods_that_cannot_be_is_refused_at_its_field(bench, rods, typed, words_said):
    answer = page(bench, rods, f"?find=1&pushrods={typed}", "remedies")
    assert answer.status_code == 422
    assert words_said in str(answer.context["form"].errors["pushrods"])
    assert answer.context["form"]["pushrods"].value() == typed


def test_pushrods_whose_choice_was_struck_out_cannot_be_marked_done_and_the_page_says_why(bench, rods):
    post(bench, rods, plan="1", pushrods="10")
    (line,) = page(bench, rods).context["plan"]
    with scope(shop=rods.shop):
        services.strike(Entry.objects.get(build=rods, kind="pushrods"), rods.shop.people.first(), "another lifter")
    assert "pushrods" not in page(bench, rods).context["form"].fields
    for name in ("put-right", "stack"):
        refused = post(bench, rods, name, done=line.key)
        assert refused.status_code == 422
        assert "choose their length first" in words(refused)
    assert making.lines(rods, "done") == []


def test_of_two_cams_each_is_moved_by_itself_and_one_cam_is_not_asked_about(bench, short, member):
    assert "cams" not in page(bench, short, "", "remedies").context["form"].fields  # its card has one cam
    making.write(short, member, replace(CARD, two_cams=True))
    form = page(bench, short, "", "remedies").context["form"]
    assert form["cams"].value() == "apart"
    found = page(bench, short, "?find=1&cam=4,8&cams=apart", "remedies").context["found"]
    assert [(plan.words, len(plan.cautions)) for plan in found] == [(["exhaust cam advanced 8°"], 1)]
    assert "lobe separation" in found[0].cautions[0]
    post(bench, short, plan="1", **dict(found[0].posted))
    assert page(bench, short).context["plan"][0].words == "exhaust cam advanced 8°"
    assert page(bench, short, "?find=1&cam=4&cams=crosswise", "remedies").status_code == 422


def test_the_least_work_on_separate_barrels_is_made_of_shims_that_lie_on_the_shelf(bench, member):
    twin = making.build(member, layout="flat", separate_barrels=True)
    making.mockup(twin, member, bolts="torqued", shims_mm=0.5)
    faces = {Side.INTAKE: 75, Side.EXHAUST: 115}  # 5 thou short of the street sheet's 80 on both intakes
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
    assert page(bench, twin, "?find=1", "remedies").context["found"] == []  # the shelf is empty
    with scope(shop=member.shop):
        for thickness in (0.5, 0.25):
            put_on(ShelfShim(thickness_mm=thickness, stock=1), member)
    assert "deck" not in page(bench, twin, "", "remedies").context["form"].fields
    found = page(bench, twin, "?find=1", "remedies").context["found"]
    assert [plan.words for plan in found] == [["base shims 9.8 thou more"]]  # 0.75 for 0.5 mm
    post(bench, twin, plan="1", **dict(found[0].posted))
    assert page(bench, twin).context["plan"][0].words == "base shims 9.8 thou more"


def test_a_plan_of_speed_and_rods_moves_the_running_estimate(bench, short, member):
    assert post(bench, short, plan="1", rpm="8000").status_code == 422
    making.write(short, member, Running(compression_height_mm=40.0))
    assert post(bench, short, plan="1", rpm="8000", rod="titanium").status_code == 302
    assert page(bench, short).context["report"].job.running.rpm == 8000


def test_a_viewer_may_try_what_ifs_and_search_but_decide_nothing(viewer, short):
    answer = page(viewer, short, "?relief_exhaust=15")
    assert shown(answer)["Exhaust"].moved
    assert "Make it the plan" not in answer.content.decode()
    assert page(viewer, short, "?find=1&crown=200&least=100", "remedies").context["found"]


def test_each_of_the_three_pages_comes_up_on_a_build_just_begun(bench, built):
    for name in TABS:
        assert page(bench, built, "", name).status_code == 200
    assert page(bench, built, "?find=1&cam=2&crown=9&least=3", "remedies").status_code == 200
    assert page(bench, built, "?cam=2", "put-right").status_code == 200


def test_worths_and_likelihoods_are_shown_and_tolerances_are_taken_or_refused(bench, short):
    answer = page(bench, short, "", "sensitivity")
    shown_at_first = [field.value() for field in answer.context["form"]]
    assert shown_at_first == ["0.001 in", "1", "0.01", "0.002 in", "0 in"]
    worth = {words: gains for words, _, gains in answer.context["turned"]}
    columns = [check.label for check, _ in answer.context["rows"]]
    assert worth["gasket thicker"][columns.index("Exhaust 2")] == "+1"
    every = {check.label: gains for check, gains in answer.context["every_worth"]}
    assert len(every) == len(
        [check for check in answer.context["report"].checks if check.figure and check.limit.is_set]
    )
    wide = page(bench, short, "?stack=1&gasket_mm=5&cam_deg=2&ratio=0.02&relief_mm=5&deck_mm=2", "sensitivity")
    assert wide.context["likely"][0]["check"].label == "Exhaust 2"
    assert float(wide.context["all_hold"].removesuffix(" %")) < 10
    wrong = page(bench, short, "?stack=1&gasket_mm=5&cam_deg=20&ratio=0.02&relief_mm=5&deck_mm=0", "sensitivity")
    assert wrong.status_code == 422
    assert "From 0 to 6" in wrong.content.decode()


def test_a_kept_what_if_reads_back_as_it_was_written(short, member):
    change = Change(key="x", kind=ChangeKind.EDGE, side=Side.INTAKE, amount=0.3)
    from mockup.plans.what_if import WhatIf

    with scope(shop=short.shop):
        services.keep_what_if(short, WhatIf(name="wider", changes=(change,)), member)
    row = making.lines(short, "what-if")[0]
    assert item_of(row.kind, row.data) == WhatIf(name="wider", changes=(change,))
