"""Times by the person's or the shop's clock; sheets on the shop's paper, signed."""

import re
from datetime import UTC, datetime

import pytest
from django.test import Client
from django.urls import reverse
from django_scopes import scope, scopes_disabled

from tests import making_rows as making
from tests.web import words
from tests.web.asking import unpacked
from web.builds.models import Entry
from web.shops.clock import zones
from web.shops.models import Person, Shop

NOON = datetime(2026, 7, 1, 12, 0, 5, tzinfo=UTC)


@pytest.fixture
def owner(db):
    person = making.person("ottoline", role=Person.Role.OWNER)
    client = Client()
    client.force_login(person)
    client.person = person
    return client


@pytest.fixture
def read(owner):
    """A build with one deck reading, written at noon UTC on a summer's day."""
    built = making.build(owner.person)
    owner.post(reverse("deck", args=[built.pk]), {"deck-1": "6 down"})
    with scope(shop=built.shop):
        Entry.objects.update(at=NOON)
    return built


def history(client, built):
    return words(client.get(reverse("history", args=[built.pk])))


def test_times_are_the_shops_until_a_person_says_their_own(owner, read):
    assert "2026-07-01 12:00:05" in history(owner, read)
    owner.post(reverse("people"), {"shop": "1", "time_zone": "America/St_Johns", "paper": "A4"})
    # Half past nine: Newfoundland stands two and a half hours behind UTC in summer (IANA tz database).
    assert "2026-07-01 09:30:05" in history(owner, read)
    assert "times in America/St_Johns" in history(owner, read)
    own = {"own": "1", "first_name": "Ottoline", "unit": "in", "theme": "", "time_zone": "Asia/Kathmandu"}
    owner.post(reverse("me"), own)
    # A quarter to six: Nepal stands five and three quarter hours before UTC (IANA tz database).
    assert "2026-07-01 17:45:05" in history(owner, read)
    assert "2026-07-01 17:45" in words(owner.get(reverse("deck", args=[read.pk])))


def test_the_next_person_on_the_same_thread_has_their_own_clock(owner, read):
    other = Client()
    other.force_login(making.person("rosalind"))
    with scopes_disabled():
        Person.objects.filter(username="ottoline").update(time_zone="Asia/Kathmandu")
    assert "17:45:05" in history(owner, read)
    assert "12:00:05" in history(other, read)


def test_a_zone_that_is_gone_is_no_error(owner, read):
    with scopes_disabled():
        Shop.objects.update(time_zone="Europe/Nowhere")
    assert "12:00:05" in history(owner, read)


@pytest.mark.parametrize("wrong", [{"time_zone": "Mars/Base"}, {"paper": "B5"}, {"paper": ""}])
def test_what_is_in_no_list_is_not_taken(owner, wrong):
    answer = owner.post(reverse("people"), {"shop": "1", "time_zone": "", "paper": "A4"} | wrong, follow=True)
    assert "Not saved: choose a time zone and a paper size." in words(answer)
    with scopes_disabled():
        assert set(Shop.objects.values_list("time_zone", "paper")) == {("", "A4")}


def test_the_zones_are_named_by_place():
    assert {"UTC", "Europe/Lisbon", "Pacific/Auckland"} <= set(zones())
    assert not {"EST", "GB", "US/Eastern", "posixrules"} & set(zones())


# In points, as ISO 216 and ANSI/ASME Y14.1 have these sheets.
@pytest.mark.parametrize(("paper", "width", "height"), [("A4", 595.3, 841.9), ("letter", 612.0, 792.0)])
def test_the_pdf_is_tagged_signed_and_on_the_shops_paper(owner, read, paper, width, height):
    owner.post(reverse("people"), {"shop": "1", "time_zone": "", "paper": paper})
    pdf = unpacked(owner.get(reverse("sheet-pdf", args=[read.pk])).content)
    box = re.search(rb"/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]", pdf)
    assert box, re.findall(rb"MediaBox.{0,60}", pdf)
    assert [round(float(side), 1) for side in box.groups()] == [width, height]
    # What ISO 14289-1 asks of every file: its claim, tags, a language, a title that is shown.
    assert b"pdfuaid" in pdf
    for part in (b"/MarkInfo", b"/StructTreeRoot", b"/Lang", b"/DisplayDocTitle true"):
        assert part in pdf, part
    assert re.search(rb"/Author \((ottoline|Ottoline), Saltmarsh\)", pdf)
