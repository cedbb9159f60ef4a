"""Two people at one build: nothing is overwritten silently, each sees the other's."""

import pytest
from django.test import Client
from django.urls import reverse
from django_scopes import scope

from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import page, post
from tests.web.forms import PLAIN_MOCKUP
from web.builds.models import Build, MockUp
from web.page.build_form import BuildForm, initial_of


@pytest.fixture
def other(member):
    client = Client()
    client.force_login(making.person("wilfred"))
    return client


def opened(client, built, name):
    """What a page's form holds as somebody opens it."""
    answer = page(client, built, name=name)
    form = answer.context["form"]
    typed = {field.html_name: field.value() for field in form}
    shown = {name: value for name, value in typed.items() if value not in (None, "")}
    return shown | {"as_it_was": answer.context["as_it_is"]}


def test_a_stale_engine_form_does_not_put_the_others_figure_back(bench, other, built, member):
    mine, theirs = (opened(client, built, "block") for client in (bench, other))
    assert post(other, built, "block", **theirs | {"bore_mm": "3.80"}).status_code == 302
    asked = post(bench, built, "block", **mine | {"stroke_mm": "3.90"})
    assert asked.status_code == 422
    assert "Changed by wilfred since you opened this: bore mm" in words(asked)
    assert 'value="3.90"' in asked.content.decode()
    with scope(shop=member.shop):
        assert Build.objects.get(pk=built.pk).engine.bore_mm == pytest.approx(3.80 * 25.4)
    # Asked once, it is theirs to decide.
    again = mine | {"stroke_mm": "3.90", "as_it_was": asked.context["as_it_is"]}
    assert post(bench, built, "block", **again).status_code == 302


def test_a_form_of_before_without_a_version_is_taken_as_it_was(bench, built):
    typed = {name: value for name, value in opened(bench, built, "block").items() if name != "as_it_was"}
    assert post(bench, built, "block", **typed).status_code == 302


def test_a_mock_up_that_somebody_else_set_down_meanwhile_is_not_written_over(bench, other, built, member):
    making.mockup(built, member)
    was = page(bench, built, name="mock-up").context["as_it_is"]
    assert post(other, built, "mock-up", **PLAIN_MOCKUP | {"gasket_state": "none", "as_it_was": was}).status_code == 302
    asked = post(bench, built, "mock-up", **PLAIN_MOCKUP | {"gasket_state": "final", "as_it_was": was})
    assert asked.status_code == 422
    assert "wilfred saved mock-up A since you opened this" in words(asked)
    with scope(shop=member.shop):
        assert MockUp.objects.get(build=built).core.gasket_state == "none"
    again = PLAIN_MOCKUP | {"gasket_state": "final", "as_it_was": asked.context["as_it_is"]}
    assert post(bench, built, "mock-up", **again).status_code == 302


def test_what_is_changed_of_a_mock_up_in_place_stands_in_the_history(bench, built, member):
    making.mockup(built, member)
    post(bench, built, "mock-up", **PLAIN_MOCKUP | {"gasket_state": "none", "lifters": "solid"})
    (line,) = making.lines(built, "edited")
    changed = {name: (was, now) for name, was, now in line.data["changes"]}
    assert changed["mock-up A gasket_state"] == ("compressed", "none")
    assert changed["mock-up A lifters"] == ("blocked", "solid")
    assert "mock-up A lifters blocked → solid" in words(page(bench, built, name="history"))


def pulse(client, built, seen):
    return client.get(reverse("pulse", args=[built.pk]), {"seen": seen})


def test_a_page_learns_that_somebody_wrote_and_who(bench, other, built):
    seen = page(bench, built, name="deck").context["seen"]
    assert pulse(bench, built, seen).status_code == 204
    post(other, built, "deck", **{"deck-1": "5 down"})
    answer = pulse(bench, built, seen)
    assert (answer.status_code, answer.json()["by"]) == (200, "wilfred")
    assert pulse(bench, built, answer.json()["seen"]).status_code == 204


def test_striking_out_mocking_up_and_another_engine_are_news_too(bench, other, built, member):
    (line,) = making.write(built, member, DeckReading(key="", cylinder=1, clearance_mm=thou(5)))
    news = [page(bench, built, name="deck").context["seen"]]
    post(other, built, "deck", strike=line.key, reason="slipped")
    news.append(page(bench, built, name="deck").context["seen"])
    post(other, built, "mock-up", **PLAIN_MOCKUP)
    news.append(page(bench, built, name="deck").context["seen"])
    post(other, built, "block", **BuildForm(initial=initial_of(built)).initial | {"name": "Teal", "cylinders": 2})
    with scope(shop=member.shop):
        making.save(Build.objects.get(pk=built.pk), member, rocker_ratio=1.7)
    news.append(page(bench, built, name="deck").context["seen"])
    assert len(set(news)) == 4


def test_another_shop_has_no_pulse_of_it(stranger, built):
    assert pulse(stranger, built, "").status_code == 404


def test_a_pulse_asks_few_queries_however_much_is_in_the_book(bench, whole, django_assert_max_num_queries):
    seen = page(bench, whole, name="deck").context["seen"]
    with django_assert_max_num_queries(6):
        assert pulse(bench, whole, seen).status_code == 204
