"""Typing readings in: what is saved, what is refused, and that nothing typed is lost."""

import uuid

import pytest
from django.urls import reverse
from django_scopes import scope
from hypothesis import given
from hypothesis import strategies as st

from mockup.quantity.value import Unit
from tests import making_rows as making
from tests.making import thou
from tests.web import STATION_PAGES
from tests.web.forms import MOCKUP
from web.builds.models import MockUp
from web.page.fields import LengthField

HTMX = {"headers": {"HX-Request": "true"}}


def mockups(built):
    with scope(shop=built.shop):
        return list(MockUp.objects.filter(build=built))


def test_a_deck_reading_is_kept_with_what_was_typed_and_by_whom(bench, built, member):
    bench.post(reverse("deck", args=[built.pk]), {"deck-1": "6 down", "instrument": "depth-rod"}, **HTMX)
    (line,), (reading,) = making.lines(built, "deck"), making.items(built, "deck")
    assert (reading.clearance_mm, reading.instrument) == (thou(6), "depth-rod")
    assert (line.typed, line.by_id) == ("6 down", member.pk)


def test_what_is_echoed_is_what_is_stored(bench, built):
    echo = bench.get(reverse("understood"), {"as": "deck", "text": "2.5 out", "unit": "in"}).content.decode()
    bench.post(reverse("deck", args=[built.pk]), {"deck-1": "2.5 out"})
    assert "0.0025 in · 0.064 mm out" in echo
    assert making.items(built, "deck")[0].clearance_mm == -thou(2.5)


@pytest.mark.parametrize(
    ("kind", "text", "unit", "words"),
    [
        ("bench", "112", "in", "0.1120 in · 2.845 mm"),
        ("bench", "2.84", "mm", "2.840 mm · 0.1118 in"),
        ("dimension", "3.75", "in", "3.7500 in"),
        ("deck", "5", "in", "Which way"),
        ("chamber", "62.4", "in", "62.4 cc"),
        ("piston", "dome 11", "in", "dome 11.0 cc"),
        ("piston", "48.2 at .300", "in", "48.2 cc over it, 0.3000 in · 7.620 mm down"),
        ("pushrod", "11.5 turns", "in", "Say the checker’s closed length"),
        ("pushrod", "7.375", "in", "7.3750 in · 187.325 mm"),
        ("wipe", "120 to 210 of 342", "in", "90 wide, 6 off centre"),
        ("clay", "112", "in", "0.1120 in · 2.845 mm"),
        ("clay", "over 5", "mm", "more than 5.000 mm"),
        ("sweep", "9 ATDC 94", "in", "9 ATDC: 0.0940 in · 2.388 mm"),
        ("sweep", "94", "in", "Type the angle and then the reading"),
        ("crank-exhaust", "12 BTDC", "in", "12 BTDC"),
        ("crank-intake", "x ATDC", "in", 'class="wrong"'),
        ("degrees", "108", "in", "108°"),
        ("bench", "<b>", "in", "&lt;b&gt;"),
        ("nonsense", "36", "furlong", "0.0360 in"),
    ],
)
def test_typing_is_echoed_as_it_was_understood(bench, kind, text, unit, words):
    query = {"as": kind, "text": text, "unit": unit}
    assert words in bench.get(reverse("understood"), query).content.decode()


@pytest.mark.parametrize(
    ("unit", "page", "name", "example"),
    [
        ("in", "put-right", "crown", "as 39, .039 or 0.99mm"),
        ("mm", "put-right", "crown", "as 0.99 or .039 in"),
        ("in", "quench", "compression_height_mm", "as 1.700 in or 43.18mm; pin to crown"),
        ("mm", "quench", "compression_height_mm", "as 43.18 or 1.700 in; pin to crown"),
        ("mm", "pushrods", "step_mm", "as 1.27 or .050 in; empty for none"),
    ],
)
def test_examples_are_typed_as_the_build_is_measured(bench, member, unit, page, name, example):
    context = bench.get(reverse(page, args=[making.build(member, unit=unit).pk])).context
    form = context.get("limits_form") or context.get("form") or context["choice_form"]
    assert form.fields[name].help_text == example
    typed = example.partition(";")[0].removeprefix("as ").replace(" or ", ", ").split(", ")
    read = [form.fields[name].clean(one) for one in typed]
    assert max(read) - min(read) < 0.01  # each of them means the same length


@given(st.floats(0, 9), st.sampled_from(list(Unit)), st.booleans(), st.booleans())
def test_what_a_field_shows_of_a_length_it_reads_back_as_the_same(mm, unit, big, below):
    field = LengthField(big=big, signed=True, required=False)
    field.read_in(unit)
    length = -mm if below and not big else mm
    assert field.clean(field.prepare_value(length)) == pytest.approx(length, abs=1e-9)
    assert field.prepare_value("12 furlongs") == "12 furlongs"  # what was typed stays as it was
    assert field.clean("") is None


def test_a_refused_field_keeps_its_typing_and_says_what_would_be_right(bench, built):
    answer = bench.post(reverse("deck", args=[built.pk]), {"deck-1": "5 in", "deck-2": "7 down"}, **HTMX)
    page = answer.content.decode()
    assert answer.status_code == 422
    assert 'value="5 in"' in page
    assert "Type down or out" in page
    assert [row.cylinder for row in making.items(built, "deck")] == [2]


def test_htmx_gets_the_very_partial_the_page_is_made_of(bench, whole):
    for name in STATION_PAGES:
        address = reverse(name, args=[whole.pk])
        full, part = bench.get(address), bench.get(address, **HTMX)
        assert "HX-Request" in full["Vary"]
        assert part.content.decode().split()[:2] == ["<div", 'id="bench"']
        assert {"page/_bench.html"} <= {t.name for t in full.templates} & {t.name for t in part.templates}


def test_a_reading_sent_again_after_a_lost_answer_is_written_once(bench, built):
    once = {"deck-1": "6 down", "token": str(uuid.uuid4())}
    for _ in range(2):
        assert bench.post(reverse("deck", args=[built.pk]), once, **HTMX).status_code == 200
    assert len(making.items(built, "deck")) == 1
    bench.post(reverse("deck", args=[built.pk]), once | {"token": str(uuid.uuid4())}, **HTMX)
    assert len(making.items(built, "deck")) == 2


def test_without_script_a_whole_sheet_is_saved_at_once(bench, built):
    sheet = {"deck-1": "6 down", "deck-2": "zero"}
    answer = bench.post(reverse("deck", args=[built.pk]), sheet, follow=True)
    assert answer.redirect_chain
    assert [row.clearance_mm for row in making.items(built, "deck")] == [thou(6), 0.0]


def test_a_reading_is_struck_out_with_a_reason_and_never_deleted(bench, whole, member):
    reading = making.lines(whole, "deck")[0]
    address = reverse("deck", args=[whole.pk])
    refused = bench.post(address, {"strike": f"deck-{reading.pk}", "reason": " "}, **HTMX)
    assert refused.status_code == 422
    assert "Give the reason" in refused.content.decode()
    bench.post(address, {"strike": f"deck-{reading.pk}", "reason": "crank moved"}, **HTMX)
    (struck,) = [row for row in making.lines(whole, "deck") if row.pk == reading.pk]
    assert (struck.struck_reason, struck.struck_by_id) == ("crank moved", member.pk)
    assert "not read" in bench.get(address).content.decode()


@pytest.mark.parametrize("key", ["deck-999999", "deck-x", "clay-1", "deck-" + "9" * 40, "-", "deck-٣"])
def test_striking_out_what_is_not_there_is_404(bench, built, key):
    assert bench.post(reverse("deck", args=[built.pk]), {"strike": key, "reason": "x"}).status_code == 404


def test_clay_needs_a_mock_up_first(bench, built):
    address = reverse("clay", args=[built.pk])
    assert "Save the" in bench.get(address).content.decode()
    answer = bench.post(address, {"clay-intake-1-face-0": "95"}, **HTMX)
    assert answer.status_code == 422
    assert not making.items(built, "clay")


def test_clay_belongs_to_the_cylinder_and_mock_up_it_was_read_in(bench, built, member):
    making.mockup(built, member)
    address = reverse("clay", args=[built.pk]) + "?cylinder=2"
    bench.post(address, {"clay-exhaust-1-radial-0": "54", "clay-intake-1-face-0": "95"}, **HTMX)
    found = {
        (row.place.cylinder, row.place.side, row.gap, row.thickness_mm, row.mockup)
        for row in making.items(built, "clay")
    }
    assert found == {(2, "exhaust", "radial", thou(54), "A"), (2, "intake", "face", thou(95), "A")}


@pytest.mark.parametrize("asked", ["", "0", "99", "x", "-1", "٣"])
def test_a_cylinder_the_engine_does_not_have_opens_the_first(bench, built, asked):
    page = bench.get(reverse("clay", args=[built.pk]), {"cylinder": asked})
    assert page.context["cylinder"] == 1


def test_a_surprising_reading_is_kept_and_asked_about(bench, built, member):
    making.mockup(built, member)
    page = bench.post(reverse("clay", args=[built.pk]), {"clay-intake-1-face-0": "900"}, **HTMX)
    assert page.status_code == 200
    assert "Is it right" in page.content.decode()
    assert len(making.items(built, "clay")) == 1


def test_volumes_are_said_as_people_say_them(bench, built):
    address = reverse("volumes", args=[built.pk])
    sheet = {"chamber-all": "64.2", "piston-all": "dome 11 cc", "chamber-2": "63.9 cc", "known": "stated"}
    bench.post(address, sheet)
    assert [(row.part, row.cylinder, row.cc, row.known) for row in making.items(built, "volume")] == [
        ("chamber", None, 64.2, "stated"),
        ("chamber", 2, 63.9, "stated"),
        ("piston", None, -11.0, "stated"),
    ]
    assert bench.post(address, {"piston-all": "11"}, **HTMX).status_code == 422


def test_the_final_gasket_is_chosen_and_chosen_again(bench, built):
    address = reverse("stack", args=[built.pk])
    for thickness in ("36", "0.041"):
        assert bench.post(address, {"gasket": "1", "compressed_mm": thickness, "bore_mm": "3.825"}).status_code == 302
    assert [row.compressed_mm for row in making.items(built, "gasket")] == [thou(36), thou(41)]
    refused = bench.post(address, {"gasket": "1", "compressed_mm": "3600", "bore_mm": "4 furlongs"}, **HTMX)
    page = refused.content.decode()
    assert refused.status_code == 422
    assert 'value="3600"' in page
    assert 'value="4 furlongs"' in page
    assert "0.05 to 6 mm" not in page  # the bore could not be read, so only that is said


def test_a_mock_up_nobody_read_under_is_changed_and_one_with_readings_is_left(bench, built, member):
    address = reverse("mock-up", args=[built.pk])
    bench.post(address, MOCKUP)
    bench.post(address, MOCKUP | {"gasket_mm": "41"})
    assert [row.core.gasket_mm for row in mockups(built)] == [thou(41)]
    bench.post(reverse("clay", args=[built.pk]), {"clay-intake-1-face-0": "95"})
    bench.post(address, MOCKUP | {"lifters": "unblocked"})
    assert [(row.letter, row.core.lifters) for row in mockups(built)] == [("A", "blocked"), ("B", "unblocked")]


def test_a_pair_of_wheel_readings_moves_the_wheel(bench, built):
    address = reverse("tdc", args=[built.pk])
    pair = {"instrument": "indicator", "method": "stop", "before_deg": "28", "after_deg": "31.5°", "drop_mm": ""}
    bench.post(address, pair)
    page = bench.get(address).content.decode()
    assert "The wheel reads 1.8° late" in page
    assert "29.8° after" in page
    refused = bench.post(address, pair | {"method": "drop", "before_deg": "28"}, **HTMX)
    assert refused.status_code == 422
    assert "how far the piston was down" in refused.content.decode()
    assert 'value="31.5°"' in refused.content.decode()


def test_conditions_that_contradict_each_other_are_refused(bench, built):
    address = reverse("mock-up", args=[built.pk])
    answer = bench.post(address, MOCKUP | {"gasket_state": "none"}, **HTMX)
    assert answer.status_code == 422
    assert "leave it empty" in answer.content.decode()
    assert not mockups(built)


AWKWARD = [
    "",
    " ",
    "nan",
    "-1",
    "1e309",
    "9" * 500,
    "\x00",
    "<script>",
    "'; drop table builds; --",
    "½",
    "٣",
    "5 in",
    "🦡",
]


@pytest.mark.parametrize("text", AWKWARD)
def test_awkward_typing_is_never_a_server_error(bench, whole, text):
    fields = {
        "tdc": ["before_deg", "after_deg", "drop_mm", "method"],
        "deck": ["deck-1", "edge-1-thrust-thrust", "instrument", "counts", "zero", "spot"],
        "stack": ["gasket", "compressed_mm", "bore_mm", "name"],
        "quench": ["compression_height_mm", "rpm", "block", "bearings_mm"],
        "clay": ["clay-intake-1-face-0", "head-pad"],
        "sweep": ["sweep-0", "sweep-other", "sweep-drop", "instrument", "wheel", "tilt", "drift"],
        "volumes": ["chamber-all", "piston-all", "known"],
        "mock-up": list(MOCKUP),
        "cam": ["card", "lsa_deg", "icl_deg", "intake_lift", "intake_duration_1", "intake_opens_deg", "two_cams"],
        "pushrods": ["rod-intake-1", "wipe-intake-1", "closed", "pitch"],
        "block": ["name", "bore_mm", "cylinders", "unit", "intake_angle_deg", "rocker_ratio"],
        "verdict": ["limit", "length", "reason", "change"],
    }
    for name, typed in fields.items():
        answer = bench.post(reverse(name, args=[whole.pk]), dict.fromkeys(typed, text), **HTMX)
        assert answer.status_code in (200, 302, 422), (name, text)


def test_the_forty_first_and_the_four_hundredth_slice_are_written(bench, built, member):
    making.mockup(built, member)
    address = reverse("clay", args=[built.pk]) + "?cylinder=1"
    for slot in (40, 399):
        answer = bench.post(address, {f"clay-intake-1-face-{slot}": "96"}, **HTMX)
        assert answer.status_code == 200
    sheet = {f"clay-exhaust-1-face-{slot}": "112" for slot in range(400)}
    bench.post(address, sheet, **HTMX)
    assert len(making.lines(built, "clay")) == 402
