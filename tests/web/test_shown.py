"""What is booked is what was shown: a page with another result books nothing."""

import re

import pytest
from django.urls import reverse

from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import gasket_of, page, post

NOW = "has changed since it was shown"


def shown(html, at=0):
    return re.findall(r'name="shown"[^>]*value="([0-9a-f]+)"|value="([0-9a-f]+)"[^>]*name="shown"', html)[at]


def digest(answer, at=0):
    return "".join(shown(answer.content.decode(), at))


def found_with(built):
    return f"?find=1&gaskets={gasket_of(built).pk}&crown=200&least=150&cam=2,+4"


def thinner(built, member, at=80):
    making.write(built, member, ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST), thickness_mm=thou(at)))


def test_a_sign_off_holds_for_the_figure_that_was_shown(bench, carded, member):
    asked = page(bench, carded, "?check=Exhaust 2", name="verdict")
    sign = {"sign": "Exhaust 2", "reason": "made-up engine", "shown": digest(asked)}
    thinner(carded, member)
    refused = post(bench, carded, "verdict", **sign)
    assert refused.status_code == 422
    assert NOW in words(refused)
    assert "Exhaust 2 is 80" in words(refused)
    assert not making.lines(carded, "sign-off")
    again = page(bench, carded, "?check=Exhaust 2", name="verdict")
    assert post(bench, carded, "verdict", **sign | {"shown": digest(again)}).status_code == 302
    assert making.lines(carded, "sign-off")


def test_a_signature_holds_for_the_list_and_the_figures_that_were_shown(bench, whole, member):
    asked = page(bench, whole, name="assembly")
    sign = {"sign": "1", "open": [line.key for line in asked.context["still_open"]], "shown": digest(asked)}
    making.write(whole, member, DeckReading(key="", cylinder=1, clearance_mm=thou(7)))
    refused = post(bench, whole, "assembly", **sign)
    assert refused.status_code == 422
    assert NOW in words(refused)
    assert not making.lines(whole, "signature")
    sign["shown"] = digest(page(bench, whole, name="assembly"))
    assert post(bench, whole, "assembly", **sign).status_code == 302
    assert making.lines(whole, "signature")


def test_a_what_if_becomes_the_plan_as_it_was_shown(bench, carded, member):
    typed = {"gasket_thick": "45"}
    live = bench.get(reverse("tried", args=[carded.pk]), typed)
    # The amount was typed over and the button pressed before the page had worked it out.
    refused = post(bench, carded, **typed | {"gasket_thick": "30", "plan": "1", "shown": digest(live)})
    assert refused.status_code == 422
    assert NOW in words(refused)
    assert not making.lines(carded, "change")
    thinner(carded, member)
    assert post(bench, carded, **typed, plan="1", shown=digest(live)).status_code == 422
    live = bench.get(reverse("tried", args=[carded.pk]), typed)
    assert post(bench, carded, **typed, plan="1", shown=digest(live)).status_code == 302
    assert len(making.lines(carded, "change")) == 1


def test_the_least_work_becomes_the_plan_as_it_was_shown(bench, carded, member):
    found = page(bench, carded, found_with(carded)).content.decode()
    form = re.search(r'<form method="post" action="[^"]*put-right/">(.*?)</form>', found, re.DOTALL)[1]
    hidden = dict(re.findall(r'name="([^"]+)" value="([^"]*)"', form))
    fields = {name: value for name, value in hidden.items() if name not in ("csrfmiddlewaretoken", "once")}
    assert "shown" in fields
    thinner(carded, member, at=70)
    refused = post(bench, carded, **fields | {"plan": "1"})
    assert refused.status_code == 422
    assert NOW in words(refused)
    assert not making.lines(carded, "change")


def test_what_the_least_work_shows_is_what_the_plan_page_works_out_again(bench, carded):
    found = page(bench, carded, found_with(carded)).content.decode()
    form = re.search(r'<form method="post" action="[^"]*put-right/">(.*?)</form>', found, re.DOTALL)[1]
    fields = dict(re.findall(r'name="([^"]+)" value="([^"]*)"', form))
    fields = {name: value for name, value in fields.items() if name not in ("csrfmiddlewaretoken", "once")}
    assert post(bench, carded, **fields | {"plan": "1"}).status_code == 302


def test_a_cam_becomes_the_plan_as_it_was_shown(bench, dropped, member):
    found = page(bench, dropped, name="which-cam").content.decode()
    form = re.search(r'<form method="post" action="[^"]*cams/">(.*?)</form>', found, re.DOTALL)[1]
    take = {"take": re.search(r'name="take"[^>]*value="(\d+)"', form, re.DOTALL)[1], "advance": "", "ratio": ""}
    seen = "".join(shown(form))
    refused = post(bench, dropped, "which-cam", **take | {"advance": "3", "shown": seen})
    assert refused.status_code == 422
    assert NOW in words(refused)
    assert not making.lines(dropped, "change")
    assert post(bench, dropped, "which-cam", **take, shown=seen).status_code == 302
    assert making.lines(dropped, "change")


@pytest.mark.parametrize(
    ("name", "query", "books"),
    [
        ("verdict", "?check=Exhaust 2", 'name="sign"'),
        ("put-right", "?gasket_thick=45", 'name="plan"'),
    ],
)
def test_every_form_that_books_a_result_carries_what_is_shown(bench, carded, name, query, books):
    html = page(bench, carded, query, name=name).content.decode()
    assert books in html
    assert 'name="shown"' in html
