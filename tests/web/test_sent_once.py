"""Every form once, what is not taken comes back, and what was typed outlives a sign-out."""

import re
import time
from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest
from django.db import connection
from django.test import Client
from django.urls import reverse
from django_scopes import scope, scopes_disabled

from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.web import words
from tests.web.asking import post
from tests.web.forms import LEAST
from web.builds.models import Build
from web.shops.models import Person, Sent
from web.shops.once import forget_old

HTMX = {"headers": {"HX-Request": "true"}}
HERE = {"HTTP_ORIGIN": "http://testserver"}
PAIR = {"method": "stop", "before_deg": "30", "after_deg": "31", "instrument": "indicator"}


def token(page):
    return re.findall(r'name="once" value="([0-9a-f-]{36})"', page.content.decode())


def test_every_form_that_writes_carries_a_token_of_its_own(bench, whole):
    for name in ("block", "tdc", "stack", "mock-up", "cam", "pushrods", "verdict", "put-right", "assembly"):
        page = bench.get(reverse(name, args=[whole.pk]))
        forms = page.content.decode().count('name="csrfmiddlewaretoken"')
        found = token(page)
        assert len(found) == len(set(found)) == forms, name


@pytest.mark.parametrize(
    ("address", "posted", "count"),
    [
        ("new-build", LEAST, lambda _: Build.objects.count() - 1),
        ("tdc", PAIR, lambda built: len(making.lines(built, "tdc"))),
        (
            "stack",
            {"change": "1", "kind": "deck cut", "front_mm": "5"},
            lambda built: len(making.lines(built, "change")),
        ),
        ("assembly", {"add": "1", "words": "wash it"}, lambda built: len(making.lines(built, "assembly"))),
    ],
)
def test_the_same_form_twice_writes_once_and_leads_to_the_same_page(bench, built, address, posted, count):
    where = reverse(address, args=[] if address == "new-build" else [built.pk])
    once = str(uuid4())
    first, second = (bench.post(where, posted | {"once": once}) for _ in range(2))
    with scope(shop=built.shop):
        assert count(built) == 1, words(first)
    assert (second.status_code, second.url) == (302, first.url if first.status_code == 302 else where)
    bench.post(where, posted | {"once": str(uuid4())})
    with scope(shop=built.shop):
        assert count(built) == 2


def test_a_form_that_was_refused_may_be_sent_again_with_its_token(bench, member):
    once = str(uuid4())
    assert bench.post(reverse("new-build"), LEAST | {"once": once, "cylinders": "x"}).status_code == 422
    assert bench.post(reverse("new-build"), LEAST | {"once": once}).status_code == 302
    with scope(shop=member.shop):
        assert Build.objects.count() == 1


def test_a_what_if_that_is_looked_at_is_answered_every_time(bench, whole):
    once = {"once": str(uuid4())}
    pages = [bench.post(reverse("put-right", args=[whole.pk]), once | {"cut": text}, **HTMX) for text in ("5", "9")]
    assert [page.status_code for page in pages] == [200, 200]
    assert not Sent.objects.exists()


def test_somebody_elses_token_leads_nowhere_of_theirs(bench, stranger, built):
    once = str(uuid4())
    bench.post(reverse("new-build"), LEAST | {"once": once})
    assert stranger.post(reverse("new-build"), LEAST | {"once": once}).url == reverse("builds")


@pytest.mark.django_db(transaction=True)
def test_two_at_the_same_moment_write_once(member):
    once = str(uuid4())

    def press(_):
        client = Client()
        client.force_login(member)
        answer = client.post(reverse("new-build"), LEAST | {"once": once})
        connection.close()
        return answer.url

    with ThreadPoolExecutor(4) as pool:
        led_to = set(pool.map(press, range(4)))
    with scopes_disabled():
        (build,) = Build.objects.all()
    assert led_to == {reverse("build", args=[build.pk])}


def test_tokens_of_days_ago_are_forgotten(bench, member, built):
    bench.post(reverse("new-build"), LEAST | {"once": str(uuid4())})
    Sent.objects.update(at="2020-01-01T00:00Z")
    assert forget_old() == 1


@pytest.mark.parametrize(
    ("at", "name", "text"),
    [
        ("deck", "deck-8", "5 down"),
        ("clay?cylinder=1", "clay-intake-3-face-0", "96"),
        ("volumes", "chamber-7", "62.4"),
        ("pushrods", "rod-intake-3", "7.375"),
    ],
)
def test_what_was_typed_for_a_place_that_is_gone_comes_back_with_its_text(bench, whole, at, name, text):
    answer = post(bench, whole, at, **{name: text})
    assert answer.status_code == 422
    assert f"“{text}”: Not saved: this engine has no such place now" in words(answer)


def test_the_forty_first_and_the_four_hundredth_slice_are_written(bench, built, member):
    making.mockup(built, member)
    for slot in (40, 41, 399, 4000):
        assert post(bench, built, "clay?cylinder=1", **{f"clay-intake-1-face-{slot}": "96"}).status_code == 302
    assert len(making.lines(built, "clay")) == 4


def test_forty_kilobytes_in_a_field_are_refused_at_once(bench, built, member):
    making.mockup(built, member)
    long = "1 to " * 8000
    for at, name in (
        ("pushrods?cylinder=1", "wipe-intake-1"),
        ("clay?cylinder=1", "clay-intake-1-face-0"),
        ("deck", "deck-1"),
    ):
        began = time.process_time()
        answer = post(bench, built, at, **{name: long})
        assert (answer.status_code, "At most 200 characters" in words(answer)) == (422, True)
        assert time.process_time() - began < 2
    echo = bench.get(reverse("understood"), {"as": "wipe", "text": long[:5000], "unit": "in"})
    assert "At most 200" in words(echo)


def test_a_nul_is_left_out_wherever_it_stands(bench, built):
    line = making.write(built, Person.objects.get(), making_deck())[0]
    assert post(bench, built, "deck", strike=line.key, reason="slip\x00ped").status_code == 302
    assert bench.get("/?what=%00").status_code == 200
    assert bench.post(reverse("new-build"), LEAST | {"name": "Te\x00rn"}).status_code == 302
    with scope(shop=built.shop):
        assert Build.objects.filter(name="Tern").exists()


def making_deck():
    return DeckReading(key="", cylinder=1, clearance_mm=0.1)


def test_a_field_waits_in_its_page_once_somebody_is_signed_out(built):
    answer = Client().post(reverse("deck", args=[built.pk]), {"deck-1": "5 down"}, **HTMX)
    assert (answer.status_code, answer.headers["HX-Reswap"]) == (401, "none")


def test_a_whole_form_comes_back_with_all_that_was_typed_and_is_sent_again(bench, member):
    away = Client()
    asked = away.post(reverse("new-build"), LEAST | {"name": "Tern & <b>"}, **HERE)
    assert asked.status_code == 401
    assert "Tern &amp; &lt;b&gt;" in asked.content.decode()
    kept = dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', asked.content.decode()))
    assert kept["cylinders"] == "4"
    assert bench.post(reverse("new-build"), kept | {"name": "Tern"}).status_code == 302


def test_a_token_of_before_signing_in_again_loses_nothing(built, member):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(member)
    asked = strict.post(reverse("new-build"), LEAST, **HERE)
    assert (asked.status_code, "Send it again" in words(asked)) == (403, True)
    field = strict.post(reverse("deck", args=[built.pk]), {"deck-1": "5 down"}, **HTMX, **HERE)
    assert field.status_code == 401


def test_a_strangers_form_is_never_handed_on(built, member):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(member)
    for origin in ("https://elsewhere.example", "null", ""):
        asked = strict.post(reverse("new-build"), LEAST, HTTP_ORIGIN=origin)
        assert asked.status_code == 403
        assert "Send it again" not in words(asked)
