"""What-ifs: what a change would do, kept by name, compared; nothing is changed by them."""

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.changes.change import Change, ChangeKind
from mockup.changes.pistons import PISTONS_CHANGED, RELIEF_WIDENED
from mockup.changes.stack import SHIMS_CHANGED
from mockup.changes.train import CAMSHAFT_CHANGED, PUSHRODS_CHANGED
from mockup.changes.valves import VALVES_CHANGED
from mockup.checks.valves import FACE_EXHAUST_CHECK
from mockup.engine.valves import Side
from tests import making_rows as making
from tests.making import thou
from tests.web.asking import gasket_of, page, post, shown
from web.builds import services
from web.builds.entry_kinds import item_of
from web.stations.put_right.form import typed_fields

TABS = ("put-right", "explore")


def test_a_what_if_shows_every_kind_before_and_after_and_changes_nothing(bench, carded):
    answer = page(bench, carded, "?relief_exhaust=15&cam=-2")
    pairs = shown(answer)
    assert pairs["Exhaust"].before == "−12"
    assert pairs["Exhaust"].state == "too close to call"
    assert not pairs["Quench"].moved
    assert answer.context["tried"] == "exhaust reliefs 15 thou deeper; cam retarded 2°"
    assert "closest" in answer.content.decode()
    assert answer.context["report"].of_kind(FACE_EXHAUST_CHECK)[1].figure.value == pytest.approx(thou(88))
    assert making.lines(carded, "change") == []


def test_what_cannot_be_foretold_says_what_is_missing_for_it(bench, whole):
    answer = page(bench, whole, "?cam=4")
    assert shown(answer)["Intake"].after == "—"
    assert answer.context["lost"] == [
        "Cam or rockers were changed since and the lobe is not known: enter its card, or read again."
    ]
    assert answer.context["chart"] is None


def everything(built):
    """Every field of the what-if form, typed, but shims and pushrods."""
    return {one.name: "2" for one in typed_fields()} | {
        "gasket": gasket_of(built).pk, "deck": "2", "head": "3", "cam": "4", "ratio": "1.1", "lash_intake": "10",
        "lash_exhaust": "12", "relief_intake": "20", "relief_exhaust": "0.5mm", "edge_intake": "5", "edge_exhaust": "5",
        "valve_intake": "-20", "valve_exhaust": "10", "sink_intake": "4", "sink_exhaust": "4", "piston": "-5",
        "piston_cc": "-1,5", "rpm": "7000", "rod": "titanium",
    }  # fmt: skip


def test_only_gaskets_of_about_this_bore_are_offered_and_every_field_can_be_typed(bench, carded):
    form = page(bench, carded).context["form"]
    assert [words for _, words in form.fields["gasket"].choices] == ["as it is", "thick"]
    answer = post(bench, carded, show="1", **everything(carded))
    assert answer.status_code == 200
    item = answer.context["form"].item
    # What this build does not have: shims, pushrods, a cam on the shelf.
    without = {SHIMS_CHANGED, PUSHRODS_CHANGED, CAMSHAFT_CHANGED}
    assert {change.kind for change in item.changes} == set(ChangeKind.all()) - without
    amounts = {(change.kind, change.side): change.amount for change in item.changes}
    assert amounts[VALVES_CHANGED, Side.INTAKE] == pytest.approx(-thou(20))
    assert amounts[PISTONS_CHANGED, None] == -1.5
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
        ({"gasket": "12345"}, "gasket", "There is no gasket “12345”"),
        ({"rod": "cast iron"}, "rod", "Select a valid choice"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field_and_what_was_typed_stays(bench, carded, typed, where, words):
    answer = post(bench, carded, show="1", sink_intake="3", **typed)
    form = answer.context["form"]
    assert list(form.errors) == [where or "__all__"]
    assert words in str(form.errors)
    assert answer.status_code == 422
    assert form["sink_intake"].value() == "3"
    assert "pairs" not in answer.context


def test_a_what_if_is_kept_by_name_opened_again_compared_and_struck_out(bench, carded):
    nameless = post(bench, carded, keep="1", cam="-2")
    assert nameless.status_code == 422
    assert "Give it a name" in nameless.content.decode()
    assert post(bench, carded, keep="1", name="later", cam="-2", relief_exhaust="15", rpm="7000").status_code == 302
    assert post(bench, carded, keep="1", name="empty").status_code == 422
    kept = page(bench, carded).context["kept"]
    assert [(line.name, line.words) for line in kept] == [
        ("later", "exhaust reliefs 15 thou deeper; cam retarded 2°; 7000 rpm")
    ]
    again = page(bench, carded, f"?kept={kept[0].pk}")
    assert again.context["form"]["cam"].value() == "-2"
    assert shown(again)["Exhaust"].moved
    compared = page(bench, carded, "?compare=1").context["compared"]
    assert [name for name, _ in compared] == ["later"]
    post(bench, carded, strike=kept[0].key, reason="thought better of")
    assert page(bench, carded).context["kept"] == []
    assert page(bench, carded, "?kept=999999").status_code == 404


def test_a_kept_what_if_comes_back_into_every_field_as_the_same_what_if(bench, carded):
    typed = post(bench, carded, show="1", **everything(carded)).context["form"].item
    post(bench, carded, keep="1", name="all of it", **everything(carded))
    again = page(bench, carded, f"?kept={page(bench, carded).context['kept'][0].pk}").context["form"]
    assert again.errors == {}
    assert (again.item.rpm, again.item.rod) == (typed.rpm, typed.rod)
    for was, now in zip(typed.changes, again.item.changes, strict=True):
        assert (now.kind, now.side, now.gasket) == (was.kind, was.side, was.gasket)
        assert (now.front_mm, now.rear_mm, now.amount) == pytest.approx((was.front_mm, was.rear_mm, was.amount))


def test_a_kept_what_if_whose_gasket_left_the_shelf_says_so_at_the_field(bench, carded):
    post(bench, carded, keep="1", name="thick one", gasket=gasket_of(carded).pk)
    bench.post(reverse("shelf"), {"off": f"gasket-{gasket_of(carded).pk}"})
    again = page(bench, carded, f"?kept={page(bench, carded).context['kept'][0].pk}")
    assert "There is no gasket “thick” of this bore on the shelf." in again.content.decode()


def test_the_ratio_it_has_already_is_no_change(bench, carded):
    assert post(bench, carded, show="1", ratio="1").context["form"].item.changes == ()
    assert post(bench, carded, plan="1", ratio="1").status_code == 422


def test_a_viewer_may_try_what_ifs_and_search_but_decide_nothing(viewer, carded):
    answer = page(viewer, carded, "?relief_exhaust=15")
    assert shown(answer)["Exhaust"].moved
    assert "Make it the plan" not in answer.content.decode()
    assert page(viewer, carded, "?find=1&crown=200&least=100").context["found"]


def test_each_of_the_three_pages_comes_up_on_a_build_just_begun(bench, built):
    for name in TABS:
        assert page(bench, built, "", name).status_code == 200
    assert page(bench, built, "?find=1&cam=2&crown=9&least=3").status_code == 200
    assert page(bench, built, "?cam=2", "put-right").status_code == 200


def test_a_kept_what_if_reads_back_as_it_was_written(carded, member):
    change = Change(key="x", kind=RELIEF_WIDENED, side=Side.INTAKE, amount=0.3)
    from mockup.plans.what_if import WhatIf

    with scope(shop=carded.shop):
        services.keep_what_if(carded, WhatIf(name="wider", changes=(change,)), member)
    row = making.lines(carded, "what-if")[0]
    assert item_of(row.kind, row.data) == WhatIf(name="wider", changes=(change,))


@pytest.mark.parametrize(
    ("typed", "moved"),
    [
        ({"gasket": "thickest"}, {"Intake", "Exhaust", "Quench", "Ratio", "Pushrods"}),
        ({"deck": "2"}, {"Intake", "Exhaust", "Quench", "Ratio", "Pushrods"}),
        ({"head": "3"}, {"Intake", "Exhaust", "Ratio", "Pushrods"}),  # its flat comes down with its face: no quench
        ({"cam": "4"}, {"Intake", "Exhaust"}),
        ({"ratio": "1.1"}, {"Intake", "Exhaust"}),  # a preload is not multiplied by it
        ({"pushrods": "10"}, {"Pushrods"}),
        ({"relief_intake": "20"}, {"Intake", "Ratio"}),
        ({"relief_exhaust": "20"}, {"Exhaust", "Ratio"}),
        ({"sink_exhaust": "4"}, {"Exhaust", "Ratio"}),
        ({"piston": "-5"}, {"Intake", "Exhaust", "Quench", "Ratio"}),
        ({"piston_cc": "2"}, {"Ratio"}),
        ({"crown": "5"}, {"Quench", "Ratio"}),
        ({"edge_intake": "5"}, set()),  # no edge was read
        ({"lash_intake": "10"}, set()),  # never counted on
        ({"rpm": "9000"}, set()),  # the running estimate stands beside, never in
    ],
)
def test_each_change_alone_moves_what_it_touches_and_nothing_else(bench, rods, typed, moved):
    if "gasket" in typed:
        typed = {"gasket": gasket_of(rods, "thickest").pk}
    pairs = shown(post(bench, rods, show="1", **typed))
    assert set(pairs) == {"Intake", "Exhaust", "Quench", "Ratio", "Pushrods"}
    assert {label for label, pair in pairs.items() if pair.moved} == moved
