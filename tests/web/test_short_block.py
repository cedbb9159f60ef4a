"""The short block's stations: edges and tools, cuts, shelf, shims, volumes, quench."""

import pytest
from django.urls import reverse

from mockup.readings.deck import CrownSpot, Pushed
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import taken_in, text_of
from tests.web.forms import put

HTMX = {"headers": {"HX-Request": "true"}}


def test_a_deck_is_kept_with_the_tool_its_zero_and_the_spot_it_was_read_at(bench, built):
    sheet = {"deck-1": "8", "instrument": "depth-rod", "counts": "depth", "zero": "2", "spot": "over the pin"}
    bench.post(reverse("deck", args=[built.pk]), sheet, **HTMX)
    (reading,) = making.items(built, "deck")
    assert (reading.clearance_mm, reading.spot) == (pytest.approx(thou(6)), CrownSpot.PIN)
    echo = bench.get(reverse("understood"), sheet | {"as": "deck", "text": "8", "unit": "in"}).content.decode()
    assert "0.0060 in" in echo


def test_edges_are_kept_with_which_was_pushed_and_whether_the_crank_was_watched(bench, built):
    sheet = {"edge-2-thrust-other": "3 down", "edge-2-front-level": "goes 4 not 5", "held": "no"}
    bench.post(reverse("deck", args=[built.pk]) + "?cylinder=2", sheet)
    pushed, level = making.items(built, "deck")
    assert (pushed.cylinder, pushed.spot, pushed.pushed, pushed.crank_held) == (
        2,
        CrownSpot.THRUST,
        Pushed.OTHER,
        False,
    )
    assert (level.spot, level.pushed) == (CrownSpot.FRONT, Pushed.LEVEL)
    assert level.half_width_mm == pytest.approx(thou(0.5))


@pytest.mark.parametrize(
    ("sheet", "words"),
    [
        ({"deck-1": "goes 12 not 11"}, "the thinner one"),
        ({"deck-1": "5 down", "spot": "the moon"}, "the place on the crown"),
        ({"deck-1": "5", "counts": "depth", "zero": "x"}, "not a length"),
        ({"deck-1": "5 down", "shims": "99 in"}, "Base shims"),
    ],
)
def test_a_deck_sheet_that_does_not_add_up_says_so_and_keeps_what_was_typed(bench, built, sheet, words):
    answer = bench.post(reverse("deck", args=[built.pk]), sheet, **HTMX)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert f'value="{sheet["deck-1"]}"' in answer.content.decode()
    assert not making.items(built, "deck")


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ({"shown": "14", "way": "back"}, "86 divisions"),
        ({"shown": "14", "turns": "2"}, "214 divisions"),
        ({"shown": "140"}, "last division"),
        ({"shown": "nan"}, "last division"),
        ({"shown": "inf"}, "last division"),
        ({"shown": ""}, "last division"),
        ({"shown": "1", "divisions": "nan"}, "Numbers only"),
    ],
)
def test_the_dial_helper_says_what_the_dial_came_to(bench, query, words):
    assert words in bench.get(reverse("dial"), query).content.decode()


# --- cuts ------------------------------------------------------------------------------------------------------------


def decide(bench, built, **changes):
    posted = {"change": "1", "kind": "deck cut", "front_mm": "3", "rear_mm": ""} | changes
    return bench.post(reverse("stack", args=[built.pk]), posted)


def test_ways_to_cut_are_shown_with_what_each_would_do(bench, whole):
    shown = text_of(bench, "stack", whole, target="2 down")
    assert "All round, by the middle: <b>3</b>" in shown
    assert "Decide this cut" in shown
    assert "38 ±2" in shown  # quench of 41 less 3
    assert "not a length" in text_of(bench, "stack", whole, target="deep")
    assert "metal added" in text_of(bench, "stack", whole, target="9 down")


def test_a_cut_is_decided_done_read_again_and_taken_back(bench, whole):
    address = reverse("stack", args=[whole.pk])
    assert decide(bench, whole).status_code == 302
    (decided,) = making.lines(whole, "change")
    assert "decided and not done" in text_of(bench, "verdict", whole)
    bench.post(address, {"done": decided.key})
    bench.post(address, {"done": decided.key})
    assert len(making.lines(whole, "done")) == 1
    deck = words(text_of(bench, "deck", whole))
    assert "will be 2 down" in deck
    assert "read again" in deck
    assert "Unfinished" in text_of(bench, "verdict", whole)
    bench.post(reverse("deck", args=[whole.pk]), {"deck-1": "2 down", "deck-2": "2.5 down"})
    assert "deck cut since it was read: read it again" not in words(text_of(bench, "deck", whole))
    (done,) = making.lines(whole, "done")
    refused = bench.post(address, {"strike": done.key, "reason": ""})
    assert refused.status_code == 422
    assert "Give the reason" in words(refused)
    bench.post(address, {"strike": done.key, "reason": "wrong block"})
    assert "will be" not in text_of(bench, "deck", whole)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"front_mm": ""}, "This field is required"),
        ({"front_mm": "0"}, "no cut"),
        ({"front_mm": "900"}, "An amount of"),
    ],
)
def test_a_cut_that_cannot_be_is_refused_and_kept_as_typed(bench, whole, changes, words):
    answer = decide(bench, whole, **changes)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert not making.lines(whole, "change")


@pytest.mark.parametrize("key", ["change-999", "deck-1", "x", ""])
def test_marking_done_what_was_never_decided_is_404(bench, whole, key):
    assert bench.post(reverse("stack", args=[whole.pk]), {"done": key}).status_code == 404


# --- volumes, quench -------------------------------------------------------------------------------------------------


def test_several_fills_are_typed_one_after_another_and_their_mean_shown(bench, built):
    address = reverse("volumes", args=[built.pk])
    for typed in ("50 + 12.1", "62.5"):
        bench.post(address, {"chamber-1": typed, "known": "measured"})
    bench.post(address, {"piston-1": "75 at 0.4in"})
    shown = text_of(bench, "volumes", built)
    assert "mean 62.3 cc, spread 0.4" in shown
    assert "dish 2.6 cc" in shown


def test_any_part_is_solved_towards_a_ratio_and_nonsense_is_said(bench, whole):
    shown = text_of(bench, "volumes", whole, ratio="10.2", closes="60", of="2")
    assert "cylinder 2, one part changed alone" in shown
    assert "for 10.2" in shown
    assert "Counted from intake closing at 60° after BDC" in shown
    for query in ({"ratio": "x"}, {"ratio": "1"}, {"ratio": "nan"}, {"closes": "400"}, {"ratio": "9" * 40}):
        assert 'class="wrong"' in text_of(bench, "volumes", whole, **query)


RUNNING = {
    "compression_height_mm": "1.76", "block": "cast iron", "rod": "steel", "piston": "4032 piston alloy",
    "block_rise_k": "117", "crank_rise_k": "70 K", "rod_rise_k": "80 K", "piston_rise_k": "270 °F", "rpm": "5200",
    "reciprocating_g": "910 g", "rod_area_mm2": "165 mm²", "bearings_mm": "",
}  # fmt: skip


def test_the_running_estimate_stands_beside_the_cold_quench(bench, whole):
    assert bench.post(reverse("quench", args=[whole.pk]), RUNNING).status_code == 302
    shown = text_of(bench, "quench", whole)
    for said in ("rod stretches at overlap TDC", "together", "41 ±2", "would use"):
        assert said in shown
    refused = bench.post(reverse("quench", args=[whole.pk]), RUNNING | {"rpm": "nan", "block_rise_k": "900"})
    assert refused.status_code == 422
    assert 'value="900"' in refused.content.decode()
    (running,) = making.items(whole, "running")
    assert (running.block_rise_k, running.piston_rise_k) == pytest.approx((65, 150))
    assert (running.reciprocating_g, running.rod_area_mm2) == (910.0, 165.0)
    # An inch build shows its own units, and takes back what it shows.
    for said in ('value="117 °F"', 'value="32.1 oz"', 'value="0.2558 sq in"'):
        assert said in shown


def test_a_mass_in_grams_typed_as_ounces_is_refused_with_the_range_in_both_units(bench, whole):
    refused = bench.post(reverse("quench", args=[whole.pk]), RUNNING | {"reciprocating_g": "910"})
    assert refused.status_code == 422
    assert "From 10 to 10000 g (0.3527 to 352.7 oz)." in refused.content.decode()


@pytest.mark.parametrize(("typed", "grows"), [("+4 hot", 4), ("4", 4), ("-2 hot", -2), ("+.004", 4)])
def test_the_builders_own_growth_stands_beside_and_judges_nothing(bench, whole, typed, grows):
    before = text_of(bench, "verdict", whole)
    assert bench.post(reverse("quench", args=[whole.pk]), {"hot_mm": typed}).status_code == 302
    (hot,) = making.items(whole, "hot-growth")
    assert hot.hot_mm == pytest.approx(thou(grows))
    shown = text_of(bench, "quench", whole)
    assert "hot, as you know it" in shown
    assert f"Your own growth is {'+' if grows > 0 else '−'}{abs(grows)} thou" in words(shown)
    assert text_of(bench, "verdict", whole).count("clear") == before.count("clear")
    echo = bench.get(reverse("understood"), {"as": "growth", "text": typed, "unit": "in"}).content.decode()
    assert ("more by" if grows > 0 else "less by") in echo


def test_a_growth_that_cannot_be_is_refused_at_its_field(bench, whole):
    for typed in ("hot", "+4 inches", "90"):
        answer = bench.post(reverse("quench", args=[whole.pk]), {"hot_mm": typed})
        assert answer.status_code == 422
        assert f'value="{typed}"' in answer.content.decode()
    assert making.items(whole, "hot-growth") == []


def test_a_build_with_all_of_it_goes_out_and_comes_back_the_same(bench, whole, member):
    decide(bench, whole)
    bench.post(reverse("stack", args=[whole.pk]), {"done": making.lines(whole, "change")[0].key})
    bench.post(reverse("deck", args=[whole.pk]), {"deck-1": "2 down", "edge-2-thrust-thrust": "4 down"})
    bench.post(reverse("quench", args=[whole.pk]), RUNNING)
    bench.post(
        reverse("stack", args=[whole.pk]), {"gasket": "1", "name": "", "compressed_mm": "41", "bore_mm": "3.825"}
    )
    exported = bench.get(reverse("export", args=[whole.pk])).content.decode()
    address = taken_in(bench, exported.encode()).url
    copied = bench.get(address)
    original = bench.get(reverse("verdict", args=[whole.pk]))
    for one in ("checks", "deck", "budgets", "planes"):
        mine, theirs = (getattr(answer.context["report"], one) for answer in (original, copied))
        if one == "checks":
            assert [(c.label, c.figure, c.state, c.carried) for c in mine] == [
                (c.label, c.figure, c.state, c.carried) for c in theirs
            ]
        elif one == "deck":
            assert [f.clearance for f in mine.values()] == [f.clearance for f in theirs.values()]
        else:
            assert mine == theirs


def test_an_instrument_this_shop_does_not_have_is_asked_for_on_import(bench, stranger, built):
    put(bench, instrument="1", name="tenth bridge", use="bridge", resolution_mm="0.002", accuracy_mm="0.004")
    bench.post(reverse("deck", args=[built.pk]), {"deck-1": "5 down", "instrument": "own-1"})
    exported = bench.get(reverse("export", args=[built.pk])).content
    answer = taken_in(stranger, exported)
    assert answer.status_code == 422
    assert "not on this shop’s list" in answer.content.decode()
