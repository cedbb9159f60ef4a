"""Entries as pages send them: each written once, in order, where it was typed."""

import json
import re
from datetime import timedelta
from uuid import uuid4

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone
from django_scopes import scope

from mockup.engine.valves import Side
from tests import making_rows as making
from tests.making import thou
from web.builds import services
from web.entry.entry_forms import ENTRY_FORMS
from web.entry.sent_entries import LONGEST_WAIT
from web.page.fragments import Collected

AWKWARD = ["", "nan", "-1", "9" * 300, "\x00", "<script>", "½", "5 in", "🦡", "1,104"]


def line(page, field, text, **more):
    return {"token": str(uuid4()), "page": page, "field": field, "text": text, "unit": "in"} | more


def send(client, built, *lines, page="", has="", **more):
    address = reverse("entries", args=[built.pk])
    sent = {"entries": lines, "page": page} | more
    return client.post(address, sent, content_type="application/json", headers={"X-Has": has})


def fates(answer):
    return [fate["why"] for fate in answer.json()["fates"]]


@pytest.fixture
def deck(built):
    return reverse("deck", args=[built.pk])


def test_lines_are_written_in_the_order_they_were_typed_with_the_time(bench, built, deck, member):
    ages = [5000, 3000, 1000]
    lines = [line(deck, "deck-1", f"{at} down", age_ms=age) for at, age in enumerate(ages, start=5)]
    began = timezone.now()
    assert fates(send(bench, built, *lines)) == ["", "", ""]
    kept = making.lines(built, "deck")
    assert [one.typed for one in kept] == ["5 down", "6 down", "7 down"]
    assert {one.by_id for one in kept} == {member.pk}
    for one, age in zip(kept, ages, strict=True):
        assert abs(one.typed_at - (began - timedelta(milliseconds=age))) < timedelta(seconds=5)


def test_a_page_open_over_an_update_still_writes_under_the_old_address_and_name(bench, built, deck):
    sent = {"lines": [line(deck, "deck-1", "5 down")], "page": ""}
    sent_on = bench.post(f"/builds/{built.pk}/lines/", sent, content_type="application/json")
    assert (sent_on.status_code, sent_on.url) == (307, reverse("entries", args=[built.pk]))
    assert fates(bench.post(sent_on.url, sent, content_type="application/json")) == [""]
    assert [one.typed for one in making.lines(built, "deck")] == ["5 down"]


def test_a_line_is_written_once_however_often_it_is_sent(bench, built, deck):
    once, other = line(deck, "deck-1", "5 down"), line(deck, "deck-2", "6 down")
    for _ in range(3):
        assert fates(send(bench, built, once)) == [""]
    assert fates(send(bench, built, once, other, once)) == ["", "", ""]
    assert [one.typed for one in making.lines(built, "deck")] == ["5 down", "6 down"]


def test_a_refused_line_says_why_and_does_not_hold_up_the_others(bench, built, deck):
    lines = [line(deck, "deck-1", "5 in"), line(deck, "deck-9", "5 down"), line(deck, "deck-2", "6 down")]
    why = fates(send(bench, built, *lines))
    assert "Type down or out" in why[0]
    assert "no such place" in why[1]
    assert why[2] == ""
    assert [one.typed for one in making.lines(built, "deck")] == ["6 down"]


@pytest.mark.parametrize("text", AWKWARD)
def test_awkward_lines_are_refused_in_words_and_never_a_server_error(bench, whole, text):
    pages = {
        "deck": ["deck-1", "edge-1-thrust-thrust"],
        "clay": ["clay-intake-1-face-0", "head-pad", "clay-intake-1-face-x"],
        "sweep": ["sweep-0", "sweep-other", "sweep-drop"],
        "volumes": ["chamber-all", "piston-all"],
        "pushrods": ["rod-intake-1", "wipe-intake-1"],
        "cam": ["lift-intake-1", "degree-pair"],
        "tdc": ["tdc-pair"],
    }
    for name, fields in pages.items():
        page = reverse(name, args=[whole.pk])
        answer = send(bench, whole, *(line(page, field, text, hand={"zero": text, "tilt": text}) for field in fields))
        assert answer.status_code == 200, (name, text)
        assert len(fates(answer)) == len(fields)


@pytest.mark.parametrize(
    "body",
    [
        "",
        "[]",
        "{",
        '{"entries": [{}]}',
        '{"entries": [{"token": "x"}]}',
        json.dumps({"entries": [line("/", "deck-1", "5", age_ms=-1)]}),
        json.dumps({"entries": [line("/", "deck-1", "5", unit="furlong")]}),
        json.dumps({"entries": [line("/", "deck-1", "5")] * 101}),
    ],
)
def test_what_is_no_batch_of_lines_is_refused(bench, built, body):
    address = reverse("entries", args=[built.pk])
    assert bench.post(address, body, content_type="application/json").status_code == 400


def test_a_line_of_a_page_that_takes_no_readings_or_of_another_build_is_refused(bench, built, member):
    other = making.build(member, name="Wren")
    for page in ("/", "/nowhere/", reverse("verdict", args=[built.pk]), reverse("deck", args=[other.pk])):
        assert "takes no readings" in fates(send(bench, built, line(page, "deck-1", "5 down")))[0]


def test_lines_of_somebody_else_wait_for_them(bench, built, deck, member):
    answer = send(bench, built, line(deck, "deck-1", "5 down"), person=str(member.pk + 1))
    assert answer.status_code == 401
    assert not making.lines(built, "deck")
    assert send(bench, built, line(deck, "deck-1", "5 down"), person=str(member.pk)).status_code == 200


def test_a_line_means_what_it_meant_on_its_page_though_the_build_has_another_unit_by_now(bench, built, deck, member):
    with scope(shop=member.shop):
        services.save_build(built, member, unit="mm")
    assert fates(send(bench, built, line(deck, "deck-1", "5 down"))) == [""]
    assert making.items(built, "deck")[0].clearance_mm == thou(5)


def test_a_line_goes_to_the_mock_up_of_its_page_though_another_was_set_down_since(bench, built, member):
    making.mockup(built, member)
    page = reverse("clay", args=[built.pk]) + "?cylinder=2&mockup=A"
    making.write(
        built, member, making.ClayReading(key="", mockup="A", place=making.Place(1, Side.INTAKE), thickness_mm=2)
    )
    making.mockup(built, member, gasket_mm=1.0)
    assert fates(send(bench, built, line(page, "clay-intake-1-face-0", "95", mockup="A"))) == [""]
    assert [one.mockup for one in making.items(built, "clay")] == ["A", "A"]
    why = fates(send(bench, built, line(page, "clay-intake-1-face-0", "95", mockup="Q")))[0]
    assert "no longer a mock-up Q" in why


def test_a_device_whose_clock_is_wrong_by_years_types_sixty_days_ago_at_most(bench, built, deck):
    send(bench, built, line(deck, "deck-1", "5 down", age_ms=1e15))
    assert timezone.now() - making.lines(built, "deck")[0].typed_at < LONGEST_WAIT + timedelta(minutes=1)


def test_several_fields_that_make_one_reading_are_one_line(bench, built, member):
    page = reverse("tdc", args=[built.pk])
    said = {"instrument": "indicator", "method": "stop", "before_deg": "28", "after_deg": "31.5", "drop_mm": ""}
    assert fates(send(bench, built, line(page, "tdc-pair", "28 before, 31.5 after", hand=said))) == [""]
    (entry,) = making.lines(built, "tdc")
    assert entry.typed == "28 before, 31.5 after"
    why = fates(send(bench, built, line(page, "tdc-pair", "x", hand=said | {"after_deg": "", "before_deg": "x"})))[0]
    assert "Wheel before TDC" in why
    assert "Wheel after TDC" in why


# --- The answer -------------------------------------------------------------------------------------


def has_of(html):
    parts = re.findall(r'data-part="([^"]+)" data-digest="([^"]+)"', html)
    return " ".join([*(f"{name}={digest}" for name, digest in parts), *re.findall(r'data-row="([^"]+)"', html)])


def test_an_answer_holds_what_changed_and_nothing_else(bench, whole):
    page = reverse("deck", args=[whole.pk])
    html = bench.get(page).content.decode()
    told = send(bench, whole, line(page, "deck-1", "6 down"), page=page, has=has_of(html)).json()["page"]
    assert {"read-deck-1", "drawing", "undo"} <= set(told["parts"])
    assert "read-deck-2" not in told["parts"]
    nothing = " ".join(f"{name}={digest}" for name, digest in [*re.findall(r"(\S+)=(\S+)", has_of(html))])
    now = nothing + " " + " ".join(f"{name}={digest}" for name, (digest, _) in told["parts"].items())
    again = bench.get(page, headers={"X-Parts": "1", "X-Has": now}).json()["page"]
    assert again["parts"] == {}


@pytest.mark.parametrize("name", sorted(ENTRY_FORMS))
def test_no_part_holds_a_field_so_that_no_answer_can_touch_one(bench, whole, monkeypatch, name):
    seen = []
    changed = Collected.changed

    def kept(self):
        seen.append(self)
        return changed(self)

    monkeypatch.setattr(Collected, "changed", kept)
    page = reverse(name, args=[whole.pk])
    answer = bench.get(page, headers={"X-Parts": "1"})
    assert answer.status_code == 200
    (collected,) = seen
    assert collected.parts
    for part, (_, html) in collected.parts.items():
        assert "bench-field" not in html, part
    # What the page shows is what an answer would put there.
    html = bench.get(page).content.decode()
    shown = dict(re.findall(r'data-part="([^"]+)" data-digest="([^"]+)"', html))
    assert shown == {part: digest for part, (digest, _) in collected.parts.items()}
    fields = set(re.findall(r'class="bench-field[^"]*"', html))
    assert bool(fields) == bool(collected.wants)


def test_the_next_angle_comes_as_a_row_of_its_own(bench, whole):
    page = reverse("sweep", args=[whole.pk]) + "?cylinder=1&valve=intake-1&mockup=A"
    html = bench.get(page).content.decode()
    rows = re.findall(r'data-row="([^"]+)"', html)
    has = has_of(html) + " " + " ".join(f"row:{row}=" for row in rows)
    lines = [
        line(page, f"sweep-{at}", text, mockup="A") for at, text in ((0, "104"), (5, "97"), (10, "96"), (15, "101"))
    ]
    told = send(bench, whole, *lines, page=page, has=has).json()["page"]
    fresh = [(row, html) for row, tone, html in told["rows"] if row not in rows]
    assert all('class="bench-field' in html for _, html in fresh)
    assert all(html == "" for row, _, html in told["rows"] if row in rows)
    assert [tone for _, tone, _ in told["rows"]].count("is-next") <= 1


def test_a_line_costs_at_most_twelve_queries(bench, whole):
    page = reverse("deck", args=[whole.pk])
    send(bench, whole, line(page, "deck-1", "6 down"), page=page)
    with CaptureQueriesContext(connection) as asked:
        send(bench, whole, line(page, "deck-2", "6 down"), page=page)
    found = [one["sql"] for one in asked.captured_queries if "SAVEPOINT" not in one["sql"]]
    assert len(found) <= 12, found


def test_the_history_shows_when_a_line_was_typed_and_not_when_it_arrived(bench, built, deck):
    send(bench, built, line(deck, "deck-1", "5 down", age_ms=26 * 3600 * 1000))
    typed = timezone.localtime(timezone.now() - timedelta(hours=26))
    assert f"{typed:%Y-%m-%d}" in bench.get(reverse("history", args=[built.pk])).content.decode()
