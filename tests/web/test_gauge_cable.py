"""A gauge on a serial cable, read by the browser: lines, and ways a shop adds."""

import re

import pytest
from django.urls import reverse

from tests.web import words
from tests.web.programs import offered

SENT = "5f0c1a52-1f61-4a3c-9a3e-3a9a4b1c0d11"


def line(client, text, token=SENT, way="plain", **more):
    return client.post(reverse("gauge-line"), {"line": text, "token": token, "way": way} | more)


def test_a_line_off_a_cable_waits_for_the_persons_page_once_however_often_it_is_sent(bench, member):
    for _ in range(3):
        answer = line(bench, "0.1120 in\r", gauge="indicator")
        assert (answer.status_code, answer.json()["text"]) == (201, "0.1120 in")
    assert answer.json()["waiting"] == 1
    told = offered(bench)
    assert (told["text"], told["gauge"]) == ("0.1120 in", "indicator")


@pytest.mark.parametrize(
    ("text", "more", "says"),
    [
        ("err 3", {}, "no number"),
        ("0.112", {"way": "own-99"}, "choose another"),
        ("0.112", {"way": "own-x"}, "choose another"),
        ("0.112", {"token": "none"}, "token is missing"),
        ("9" * 5000, {}, "1 to 400"),
    ],
)
def test_a_line_without_a_reading_is_refused_in_words(bench, text, more, says):
    answer = line(bench, text, **more)
    assert answer.status_code == 422
    assert says in answer.json()["refused"]


def test_a_shop_adds_a_way_of_its_own_tries_it_and_takes_it_off(bench, stranger):
    page = reverse("gauges")
    ours = {
        "name": "the old indicator",
        "shape": "columns",
        "between": "blanks",
        "value_at": "2",
        "unit": "mm",
        "baud": "4800",
    }
    assert bench.post(page, ours).status_code == 302
    shown = bench.get(page).content.decode()
    (key,) = re.findall(r'data-cable="(own-\d+)"', shown)
    tried = bench.post(page, {"try": "1", "way": key, "line": "A1 2.845"})
    assert "is “2.845 mm”" in words(tried)
    assert "no number" in words(bench.post(page, {"try": "1", "way": key, "line": "A1"}))
    assert line(bench, "A1 2.845", way=key).json()["text"] == "2.845 mm"
    # Another shop has no such way, and cannot take it off.
    assert line(stranger, "A1 2.845", way=key).status_code == 422
    off = {"off": f"way-{key.removeprefix('own-')}"}
    assert stranger.post(page, off).status_code == 404
    assert bench.post(page, off).status_code == 302
    assert line(bench, "A1 2.845", way=key).status_code == 422


def test_a_way_that_cannot_be_stays_as_it_was_typed_and_says_why(bench):
    answer = bench.post(
        reverse("gauges"),
        {"name": "ours", "shape": "columns", "between": "comma", "value_at": "0", "unit": "ell", "baud": "77"},
    )
    assert answer.status_code == 422
    assert "A column from 1" in words(answer)
    assert "in, mm, thou" in words(answer)
    assert 'value="ell"' in answer.content.decode()
