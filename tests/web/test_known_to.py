"""Accuracies typed at the pages: stored, shown, refused at their fields."""

import pytest
from django_scopes import scope

from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import page, post
from tests.web.forms import CARD, put, shown_in_the_form
from web.builds.models import Build
from web.shelf.models import ShelfInstrument

TDC = {"instrument": "indicator", "method": "stop", "before_deg": "28", "after_deg": "31", "drop_mm": ""}
GASKET = {"gasket": "1", "name": "steel", "compressed_mm": "36", "bore_mm": "3.825"}


def test_the_block_says_how_truly_bore_stroke_and_rod_are_known(bench, whole):
    typed = shown_in_the_form(whole) | {"bore_known_to_mm": "0.5", "pistons_reversed": "yes"}
    before = page(bench, whole, name="verdict").context["report"].volumes[1].clearance_cc
    assert post(bench, whole, "block", **typed).status_code == 302
    with scope(shop=whole.shop):
        stored = Build.objects.get(pk=whole.pk).engine
    assert (stored.bore_known_to_mm, stored.pistons_reversed) == (pytest.approx(thou(0.5)), True)
    assert page(bench, whole, name="verdict").context["report"].volumes[1].clearance_cc == before
    refused = post(bench, whole, "block", **typed | {"bore_known_to_mm": "3 in"})
    assert refused.status_code == 422
    assert 'value="3 in"' in refused.content.decode()


@pytest.mark.parametrize(
    ("at", "posted", "kind", "name", "value"),
    [
        ("tdc", TDC | {"wheel_known_to_deg": "0.25"}, "tdc", "wheel_known_to_deg", 0.25),
        ("stack", GASKET | {"known_to_mm": "0.5"}, "gasket", "known_to_mm", thou(0.5)),
        ("volumes", {"chamber-1": "62.4 ± 0.2", "known": "measured"}, "volume", "known_to_cc", 0.2),
        ("volumes", {"chamber-1": "62.4 +- 0.2", "known": "measured"}, "volume", "known_to_cc", 0.2),
    ],
)
def test_a_reading_says_how_truly_it_is_known(bench, built, at, posted, kind, name, value):
    assert post(bench, built, at, **posted).status_code == 302
    assert getattr(making.items(built, kind)[-1], name) == pytest.approx(value)


@pytest.mark.parametrize(
    ("at", "posted", "typed"),
    [
        ("tdc", TDC | {"wheel_known_to_deg": "30"}, "30"),
        ("stack", GASKET | {"known_to_mm": "3 in"}, "3 in"),
        ("stack", GASKET | {"compressed_mm": "0"}, "0"),
        ("volumes", {"chamber-1": "62.4 ± wide", "known": "measured"}, "62.4 ± wide"),
    ],
)
def test_what_cannot_be_known_so_comes_back_with_its_text(bench, built, at, posted, typed):
    refused = post(bench, built, at, **posted)
    assert refused.status_code == 422
    assert f'value="{typed}"' in refused.content.decode()


def test_separate_barrels_run_without_a_gasket(bench, member):
    twin = making.build(member, layout="flat", separate_barrels=True)
    assert post(bench, twin, "stack", **GASKET | {"compressed_mm": "0", "bore_mm": ""}).status_code == 302
    assert making.items(twin, "gasket")[-1].compressed_mm == 0.0


def test_an_instrument_says_what_it_repeats_within_and_keeps_the_usual_where_nobody_says(bench, member):
    tenth = {"use": "bridge", "resolution_mm": "0.002", "accuracy_mm": "0.004"}
    put(bench, instrument="1", name="steady", repeats_mm="0.003", **tenth)
    put(bench, instrument="1", name="usual", repeats_mm="", **tenth)
    with scope(shop=member.shop):
        found = {one.name: one.repeats_mm for one in ShelfInstrument.objects.all()}
    assert found == {"steady": pytest.approx(0.003), "usual": pytest.approx(thou(0.5))}


def test_a_card_with_its_lift_at_tdc_is_kept(bench, built):
    assert post(bench, built, "cam", **CARD | {"intake_tdc_lift": "62"}).status_code == 302
    assert making.items(built, "cam-card")[-1].intake.tdc_lift_mm == pytest.approx(thou(62))
    shown = page(bench, built, "?card=1", "cam").content.decode()
    assert "Lift at TDC" in shown
    assert 'value="0.062 in"' in shown
    refused = post(bench, built, "cam", **CARD | {"intake_tdc_lift": "400"})  # more than the lobe lifts
    assert refused.status_code == 422


def test_the_smallest_by_turning_and_the_drop_are_typed_at_the_indicator(bench, built, member):
    making.mockup(built, member)
    query = "?cylinder=1&valve=intake-1"
    for name, text in (("sweep-turning", "94"), ("sweep-drop", "420")):
        bench.post(f"/builds/{built.pk}/indicator/{query}", {name: text})
    turned, drop = making.items(built, "sweep")
    assert (turned.by_turning, turned.drop, drop.by_turning, drop.drop) == (True, False, False, True)
    said = words(page(bench, built, query, "sweep"))
    assert "turning not stated" in said
