"""One's own last reading is taken back by one key: soon at once, later confirmed."""

from datetime import timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_scopes import scope

from mockup.engine.gasket import FinalGasket
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from web.builds.models import Entry


@pytest.fixture
def line(bench, built):
    bench.post(reverse("deck", args=[built.pk]), {"deck-1": "6 down"})
    return making.lines(built, "deck")[0]


def undone(client, line, **kwargs):
    return client.post(reverse("deck", args=[line.build_id]), {"undo": line.key}, **kwargs)


def struck(line):
    return Entry.objects.get(pk=line.pk).struck_reason


@pytest.fixture(autouse=True)
def in_the_shop(member):
    with scope(shop=member.shop):
        yield


def written_ago(line, seconds):
    Entry.objects.filter(pk=line.pk).update(at=timezone.now() - timedelta(seconds=seconds))


@pytest.mark.parametrize(("seconds", "reason"), [(0, "taken back at once"), (60, "typed wrong")])
def test_the_last_reading_is_struck_with_a_ready_reason(bench, line, seconds, reason):
    written_ago(line, seconds)
    page = bench.get(reverse("deck", args=[line.build_id]))
    assert "Take back deck 1 “6 down”" in words(page)
    answer = undone(bench, line, follow=True)
    assert "Taken back: “6 down”" in words(answer)
    assert struck(line) == reason
    assert "Take back" not in words(answer)


def test_a_reading_that_is_no_longer_the_last_is_left_and_said(bench, line):
    bench.post(reverse("deck", args=[line.build_id]), {"deck-2": "7 down"})
    answer = undone(bench, line)
    assert answer.status_code == 422
    assert "no longer your last reading" in words(answer)
    assert struck(line) == ""


def test_twice_is_once_and_says_so(bench, line):
    undone(bench, line)
    assert undone(bench, line).status_code == 422
    assert struck(line) == "taken back at once"


def test_nobody_takes_back_what_somebody_else_read(bench, line, viewer):
    other = Client()
    other.force_login(making.person("rosalind"))
    assert "Take back" not in words(other.get(reverse("deck", args=[line.build_id])))
    assert undone(other, line).status_code == 422
    assert undone(viewer, line).status_code == 403
    assert struck(line) == ""


def test_another_shop_finds_nothing_to_take_back(stranger, line):
    assert undone(stranger, line).status_code == 404


def test_only_readings_are_taken_back_and_only_at_their_station(bench, member, line):
    built = line.build
    making.write(built, member, FinalGasket(compressed_mm=thou(36), bore_mm=97.0))
    assert "Take back deck 1 “6 down”" in words(bench.get(reverse("deck", args=[built.pk])))
    assert "Take back" not in words(bench.get(reverse("tdc", args=[built.pk])))
    (gasket,) = making.lines(built, "gasket")
    assert bench.post(reverse("deck", args=[built.pk]), {"undo": gasket.key}).status_code == 404
