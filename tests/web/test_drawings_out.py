"""Every drawing has its figures in words, and is had as a file that stands by itself."""

from xml.etree import ElementTree

import pytest
from django.core.management import call_command
from django.test import Client
from django.urls import reverse
from django_scopes import scopes_disabled

from web.builds.models import Build
from web.page.drawing_files import drawings_of

SVG = "{http://www.w3.org/2000/svg}"
DRAWN = ("tdc", "deck", "volumes", "quench", "mock-up", "cam", "clay", "sweep", "put-right", "verdict")


@pytest.fixture
def bench(db):
    """A client of the demo's own shop."""
    call_command("load_demo")
    client = Client()
    client.post(reverse("demo-enter"))
    return client


@pytest.fixture
def drawn(bench):
    """The demo's six: every station of it has its drawing."""
    with scopes_disabled():
        return Build.objects.get(name="Bittern")


def shown(client, built, name):
    return client.get(reverse(name, args=[built.pk])).context["drawings"]


def test_the_stations_that_draw_something_offer_it(bench, drawn):
    assert {name for name in DRAWN if shown(bench, drawn, name)} == set(DRAWN) - {"verdict"}
    assert {one.name for one in shown(bench, drawn, "sweep")} >= {"The chamber in section"}


@pytest.mark.parametrize("name", DRAWN)
def test_each_is_had_as_a_file_that_needs_no_style_sheet(bench, drawn, name):
    for one in shown(bench, drawn, name):
        answer = bench.get(reverse(name, args=[drawn.pk]), {"svg": one.number})
        assert answer["Content-Type"] == "image/svg+xml"
        assert answer["Content-Disposition"].startswith('attachment; filename="bittern-')
        tree = ElementTree.fromstring(answer.content)  # noqa: S314, our own
        assert tree.tag == f"{SVG}svg"
        assert tree.get("viewBox")
        assert b"var(" not in answer.content
        # Every mark that is drawn says how: nothing is left to the black that programs fill in.
        marks = [
            mark for mark in tree.iter() if mark.tag in {f"{SVG}{name}" for name in ("path", "line", "circle", "rect")}
        ]
        assert marks
        assert any(mark.get("fill") or mark.get("stroke") for mark in marks)


@pytest.mark.parametrize("name", [one for one in DRAWN if one != "verdict"])
def test_its_words_tell_the_figures(bench, drawn, name):
    for one in shown(bench, drawn, name):
        assert any(letter.isdigit() for letter in one.words), one


def test_a_drawing_that_is_not_there_or_of_another_shop_is_not_found(bench, stranger, drawn):
    address = reverse("deck", args=[drawn.pk])
    for asked in ("0", "99", "x", "", "-1", "1" * 300):
        assert bench.get(address, {"svg": asked}).status_code == 404
    assert stranger.get(address, {"svg": 1}).status_code == 404


def test_names_are_told_from_words():
    named = '<svg role="img" aria-label="The deck from above: 1 4 down; &amp;"></svg>'
    html = f'{named}<svg aria-hidden="true"></svg><svg role="img"></svg>'
    assert [(one.number, one.name) for one in drawings_of(html)] == [(1, "The deck from above"), (2, "drawing 2")]
