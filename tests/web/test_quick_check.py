"""The quick check's page: an answer while typing, an address, a build begun from it."""

import html
import re
from urllib.parse import urlencode

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.base.topics import Topic
from mockup.checks.valves import FACE_INTAKE_CHECK
from mockup.engine.gasket import GasketState
from mockup.evaluate import evaluate
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.volumes import VolumeReading
from tests.making import thou
from tests.web.forms import NEW
from web.builds.assemble import assemble
from web.builds.models import Build

QUICK = reverse("quick")
ENGINE = NEW | {"name": "Teal"}


RATIO = {
    "what": "ratio", "bore_mm": "3.75", "stroke_mm": "3.875", "chamber_cc": "70", "piston_cc": "dish 5",
    "deck_mm": "4 down", "gasket_mm": "36", "gasket_bore_mm": "97mm",
}  # fmt: skip


FIELD_WORDS = {
    "lifters": "solid", "springs": "checking", "two_turns": "yes", "overlap": "both valves moving",
    "dial_turns": "turns counter", "turned_step_deg": "0",
}  # fmt: skip


def asked(bench, **fields):
    return bench.get(QUICK, fields)


def text(answer):
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", answer.content.decode()))


def test_one_number_is_enough_for_an_answer(bench):
    page = text(asked(bench, read_mm="160"))
    assert "Intake 1" in page
    assert "160 ±" in page
    assert "20 to 75 thou" in page
    # What nobody said is never taken for the best: it is asked for, and not judged clear until then.
    assert "Lifters not stated" in page
    assert "not measured" in page
    assert "clear" in text(asked(bench, read_mm="160", **FIELD_WORDS))


def test_the_page_asks_for_one_number_and_its_address_holds_all_of_them(bench):
    answer = bench.get(QUICK)
    assert answer.status_code == 200
    assert len(re.findall(r" required", answer.content.decode())) == 1
    again = asked(bench, read_mm="96", side="exhaust", under="none", final_mm="41", clay="dough", unit="in")
    assert 'value="96"' in again.content.decode()
    assert "Exhaust 1" in text(again)
    assert "137 ±" in text(again)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"read_mm": "thick"}, "It read:"),
        ({"read_mm": "9" * 40_000}, "It read:"),
        ({"read_mm": ""}, "Still to type: It read."),
        ({"read_mm": "96", "under": "none"}, "The one it will run: Enter the thickness"),
        ({"read_mm": "96", "under": "glue"}, "Gasket when it was read:"),
        ({"read_mm": "96", "limits": "roads"}, "Judged by:"),
        ({"read_mm": "96", "unit": "cubits"}, "Plain numbers are:"),
        ({"read_mm": "96", "method": "indicator, at an angle"}, "At: Enter the angle"),
        ({"read_mm": "96", "method": "indicator, at an angle", "crank_deg": "nine"}, "At:"),
    ],
)
def test_what_cannot_be_read_is_said_by_its_field_and_stays_as_typed(bench, fields, words):
    answer = asked(bench, **fields)
    assert words in text(answer).replace(" :", ":")
    assert "Intake 1" not in text(answer)


def test_millimetres_are_read_where_they_are_asked_for(bench):
    assert "2.44 ±" in text(asked(bench, read_mm="2.44", unit="mm", under="the same kind, used"))


def test_a_build_begun_from_it_has_the_reading_in_its_book_and_says_the_same(bench, member):
    asked_for = {"read_mm": "96", "under": "the same kind, used", "unit": "in", "limits": "careful"}
    page = asked(bench, **asked_for).content.decode()
    (link,) = re.findall(r'href="(/builds/new/[^"]+)"', page)
    form = bench.get(html.unescape(link))
    assert "Intake valve, clay, thinnest place: 96 thou" in text(form)
    carried = html.unescape(re.findall(r'name="quick" value="([^"]*)"', form.content.decode())[0])
    refused = bench.post(reverse("new-build"), ENGINE | {"quick": carried, "cylinders": "40"})
    assert refused.status_code == 422
    assert f'value="{html.escape(carried)}"' in refused.content.decode()
    kept = bench.post(reverse("new-build"), ENGINE | {"quick": carried})
    assert kept.status_code == 302
    with scope(shop=member.shop):
        built = Build.objects.get(name="Teal")
        job = assemble(built)
    (reading,) = job.of(ClayReading)
    assert (reading.thickness_mm, reading.record.typed) == (pytest.approx(thou(96)), "96")
    assert (job.mockups[0].gasket_state, job.final_gasket) == (GasketState.SAME_USED, None)
    figure = evaluate(job).of_kind(FACE_INTAKE_CHECK)[0].figure
    assert figure.value == pytest.approx(thou(96))


def test_a_check_nobody_can_read_is_said_before_a_build_begins_without_it(bench, member):
    answer = bench.post(reverse("new-build"), ENGINE | {"quick": "read_mm=thick&under=glue"})
    assert answer.status_code == 422
    assert "cannot be read: read_mm=thick&amp;under=glue" in answer.content.decode()
    assert 'name="quick"' not in answer.content.decode()
    assert bench.post(reverse("new-build"), ENGINE).status_code == 302
    with scope(shop=member.shop):
        assert Build.objects.get(name="Teal").pk


def test_only_who_may_write_is_offered_to_keep_it(bench, viewer):
    assert "Keep it" in text(asked(bench, read_mm="96"))
    assert "Keep it" not in text(asked(viewer, read_mm="96"))


def test_a_reading_kept_stands_in_the_strip_judged_as_the_quick_check_judged_it(bench):
    begun = ENGINE | {"quick": urlencode({"read_mm": "160"} | FIELD_WORDS), "checking": ["valve clearance"]}
    page = text(bench.post(reverse("new-build"), begun, follow=True))
    assert "cyl 1: 160 ±4" in page
    assert "1 of 8 read, more wanted" in page


@pytest.mark.parametrize(
    ("address", "kinds", "topic", "bore"),
    [
        ("what=quench&deck_mm=11 down&gasket_mm=41", {DeckReading: ["11 down"]}, Topic.DECK, None),
        (
            "what=ratio&bore_mm=4.000&stroke_mm=3.000&chamber_cc=60&piston_cc=dish 5&deck_mm=11 down&gasket_mm=41",
            {DeckReading: ["11 down"], VolumeReading: ["60", "dish 5"]},
            Topic.RATIO,
            "4",
        ),
    ],
)
def test_quench_and_ratio_are_kept_as_builds_too(bench, member, address, kinds, topic, bore):
    form = bench.get(reverse("new-build"), {"quick": address})
    assert form.context["form"].initial["checking"] == [topic]
    assert form.context["form"]["bore_mm"].value() == (bore or "")
    posted = ENGINE | {"quick": address, "checking": [topic], "bore_mm": bore or "", "stroke_mm": "3" if bore else ""}
    assert bench.post(reverse("new-build"), posted).status_code == 302
    with scope(shop=member.shop):
        job = assemble(Build.objects.get(name="Teal"))
    for kind, typed in kinds.items():
        assert [reading.record.typed for reading in job.of(kind)] == typed
    assert job.final_gasket.compressed_mm == pytest.approx(thou(41))


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        (
            {"what": "pushrod", "closed_mm": "6.800", "turns": "11.5", "preload_mm": "60"},
            ("7.375 ±", "6.800 + 11.5 × 0.050", "7.435 ±", "7.415 to 7.455 in"),
        ),
        ({"what": "pushrod", "closed_mm": "6.800", "turns": "11.5"}, ("Zero-lash length", "7.375 ±")),
        ({"what": "pushrod", "closed_mm": "6.800"}, ("Still to type: Turns out.",)),
        ({"what": "pushrod", "closed_mm": "6.800", "turns": "90"}, ("From 0 to 60 turns",)),
        ({"what": "gasket", "free_mm": "55", "compressed_mm": "40"}, ("15 ±", "Subtract from the reading")),
        ({"what": "gasket", "free_mm": "55", "compressed_mm": "40", "read_mm": "130"}, ("115 ±", "As it will run")),
        ({"what": "gasket", "free_mm": "40", "compressed_mm": "55"}, ("swapped",)),
        ({"what": "dial", "shown": "14", "way": "back"}, ("86 divisions", "backwards to 14")),
        ({"what": "dial", "shown": "14", "way": "on", "turns": "2"}, ("214 divisions",)),
        ({"what": "dial", "shown": "140", "way": "back"}, ("The needle stops from 0",)),
    ],
)
def test_small_sums_are_answered_the_same_way(bench, fields, words):
    answer = asked(bench, **fields)
    assert answer.status_code == 200
    for word in words:
        assert word in text(answer)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"what": "quench", "deck_mm": "11 down", "gasket_mm": "41"}, "52 ±2 thou"),
        ({"what": "quench", "deck_mm": "0.1 mm out", "gasket_mm": "1.15", "unit": "mm"}, "1.05 ±"),
        ({"what": "quench", "deck_mm": "11", "gasket_mm": "41"}, "Deck :"),
        ({"what": "quench", "deck_mm": "11 down"}, "Still to type: Gasket, compressed."),
        ({"what": "quench", "deck_mm": "11 down", "gasket_mm": "0"}, "Gasket, compressed :"),
        ({"what": "quench", "deck_mm": "11 down", "gasket_mm": "900"}, "A head gasket is"),
        (RATIO, "9.50 ±0.06 to 1"),
        (
            RATIO | {"gasket_bore_mm": ""},
            "assumed to be the cylinder’s and 1 mm (0.039 in); 1 mm (0.039 in) more would take 0.0",
        ),
        (RATIO | {"piston_cc": "5"}, "Say which: dish"),
        (RATIO | {"chamber_cc": "much"}, "Chamber, cc :"),
        (RATIO | {"chamber_cc": "-70"}, "A chamber volume of"),
        (RATIO | {"stroke_mm": "3000"}, "Outside"),
        ({"what": "ratio", "bore_mm": "3.75"}, "Still to type: Stroke; Chamber, cc; Piston; Deck; Gasket, compressed."),
        ({"what": "torque", "read_mm": "160"}, "160 ±"),
    ],
)
def test_quench_and_ratio_are_answered_the_same_way(bench, fields, words):
    answer = asked(bench, **fields)
    assert answer.status_code == 200
    assert words in text(answer)


def test_a_reading_by_indicator_opens_where_it_stands(bench):
    carried = "read_mm=110&method=indicator, at an angle&crank_deg=9 ATDC&under=none&final_mm=41"
    assert "Intake valve, indicator, at an angle: 110 thou" in text(bench.get(reverse("new-build"), {"quick": carried}))
    answer = bench.post(reverse("new-build"), ENGINE | {"quick": carried})
    assert "/indicator/" in answer["Location"]
    assert "110" in text(bench.get(answer["Location"]))
