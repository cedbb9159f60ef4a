"""The feed of a gauge: each reading once, in order, to one page, or told."""

import io
import json
import re
import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from http.server import BaseHTTPRequestHandler, HTTPServer
from uuid import uuid4

import pytest
from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from django_scopes import scope, scopes_disabled

from launch import gauge
from tests import making_rows as making
from tests.web import words
from tests.web.programs import Program, asked, faults, offered
from web.builds.models import Entry
from web.programs import feed
from web.programs.models import GaugeReading
from web.shops.program_keys import make_key


@pytest.fixture
def program(member):
    return Program(make_key(member, "indicator on the bench", writes=True))


def sent(program, value="0.112", **more):
    return program.post("gauge", {"value": value, "unit": "in", "token": str(uuid4())} | more)


def tray(client):
    return words(client.get(reverse("gauge-tray")))


def done(client, number):
    client.post(reverse("gauge-done"), {"number": number})


def line_to(client, built, field, reading):
    """Send a reading as the entry its page makes; returns why it was refused, or ""."""
    page = reverse("deck", args=[built.pk])
    made = {"page": page, "field": field, "text": reading["text"], "token": reading["token"], "unit": "in"}
    answer = client.post(
        reverse("entries", args=[built.pk]), {"page": page, "entries": [made]}, content_type="application/json"
    )
    return answer.json()["fates"][0]["why"]


def test_readings_are_offered_once_and_in_the_order_they_came(bench, program):
    for value in ("0.112", "0.113", 0.1145):
        assert sent(program, value, gauge="indicator").status_code == 201
    first = offered(bench)
    assert (first["text"], first["gauge"]) == ("0.112 in", "indicator")
    assert offered(bench) is None, "while one is on its way, none after it"
    done(bench, first["number"])
    assert offered(bench)["text"] == "0.113 in"
    with scopes_disabled():
        GaugeReading.objects.update(done_at=timezone.now())
    assert offered(bench) is None


def test_a_reading_goes_only_to_a_field_that_had_the_cursor_when_it_was_sent(bench, program):
    sent(program, "6 down", unit="", age_ms=3000)
    assert asked(bench, held=1000) == {"in_tray": 1, "reading": None}, "the cursor came there after it was sent"
    assert offered(bench) is None, "what is in the tray stays there"
    sent(program, "7 down", unit="")
    assert asked(bench, held=0) == {"in_tray": 2, "reading": None}, "no field has the cursor"
    assert "6 down" in tray(bench)
    assert "7 down" in tray(bench)
    sent(program, "8 down", unit="", age_ms=500)
    assert offered(bench, held=1000)["text"] == "8 down"


def test_readings_in_a_row_follow_the_cursor_that_the_one_before_moved(bench, program):
    for at in range(3):
        sent(program, f"{at + 5} down", unit="", age_ms=60_000)
    first = asked(bench, held=600_000)["reading"]
    done(bench, first["number"])
    second = asked(bench, held=0, after=str(first["number"]))["reading"]
    assert second["text"] == "6 down"
    done(bench, second["number"])
    assert asked(bench, held=0, after=str(second["number"] + 5))["reading"] is None, "sent before that one"
    assert bench.post(reverse("gauge-next"), {"hello": "1"}).status_code == 204


def test_a_bare_number_is_asked_for_its_unit_once(bench, program, member):
    sent(program, "2.85", unit="", gauge="rod")
    assert asked(bench) == {"in_tray": 1, "reading": None}
    assert "In which unit" in tray(bench)
    assert bench.post(reverse("gauge-unit"), {"gauge": "rod", "unit": "ell"}).status_code == 422
    assert bench.post(reverse("gauge-unit"), {"gauge": "rod", "unit": "mm"}).status_code == 204
    assert "2.85 mm" in tray(bench)
    sent(program, "2,86", unit="", gauge="rod")
    assert offered(bench)["text"] == "2,86 mm"
    # Another gauge, and another shop's, have none.
    sent(program, "2.87", unit="", gauge="other")
    other = type(bench)()
    other.force_login(making.person("stranger", shop_name="Elsewhere"))
    assert "2.85" not in tray(other)


@pytest.mark.parametrize(
    ("value", "unit", "text"),
    [("6 down", "mm", "6 mm down"), ("0,112", "in", "0,112 in"), ("goes 11 not 12", "", "goes 11 not 12")],
)
def test_a_unit_goes_with_its_number(program, value, unit, text):
    assert sent(program, value, unit=unit).json()["text"] == text


def test_the_same_token_is_the_same_reading(bench, program):
    token = str(uuid4())
    answers = [sent(program, token=token).json() for _ in range(3)]
    assert [answer["waiting"] for answer in answers] == [1, 1, 1]


def test_what_a_page_did_not_live_to_take_waits_in_the_tray_and_is_written_once(bench, program, built, member):
    sent(program, "6 down", unit="")
    sent(program, "7 down", unit="")
    first = offered(bench)
    with scopes_disabled():
        GaugeReading.objects.update(offered_at=timezone.now() - feed.TAKEN_WITHIN - timedelta(seconds=1))
    assert asked(bench)["reading"] is None, "it is not offered to a field again: another may have it by now"
    assert "6 down" in tray(bench)
    # The page was only slow: its line comes, and then the person places the reading from the tray all the same.
    assert line_to(bench, built, "deck-1", first) == ""
    assert "6 down" not in tray(bench), "the log has it"
    assert line_to(bench, built, "deck-1", first) == "", "the same line again is written once"
    assert "in the log already" in line_to(bench, built, "deck-2", first)
    with scope(shop=member.shop):
        other = making.build(member, name="Wren")
        assert "in the log already" in line_to(bench, other, "deck-1", first)
        assert Entry.objects.filter(kind="deck").count() == 1


@pytest.mark.parametrize(
    ("more", "path"),
    [
        ({"value": " "}, "value"),
        ({"value": "x" * 41}, "value"),
        ({"value": 1e300}, "value"),
        ({"unit": "furlong"}, "unit"),
        ({"token": "x"}, "token"),
        ({"value": "nonsense"}, "value"),
        ({"value": "1,104"}, "value"),
        ({"value": "goes 11 not 12", "unit": "mm"}, "unit"),
    ],
)
def test_what_nobody_could_type_is_refused(program, more, path):
    answer = sent(program, **({"unit": ""} | more))
    assert answer.status_code == 422
    assert faults(answer)[0][0] == path


def test_no_more_than_two_hundred_wait(bench, program, monkeypatch):
    monkeypatch.setattr(feed, "MOST_WAITING", 2)
    for _ in range(2):
        sent(program)
    assert "2 readings are waiting already" in faults(sent(program))[0][1]
    done(bench, offered(bench)["number"])
    assert sent(program).status_code == 201


def test_a_gauge_reaches_only_its_own_persons_page_and_only_with_a_key_that_writes(
    bench, viewer, stranger, member, program
):
    assert sent(Program(make_key(member, "reads", writes=False))).status_code == 403
    sent(program)
    other = type(bench)()
    other.force_login(making.person("second"))
    assert offered(other) is None
    assert offered(stranger) is None
    assert viewer.post(reverse("gauge-next")).status_code == 403
    number = offered(bench)["number"]
    done(stranger, number)
    done(other, number)
    with scopes_disabled():
        assert GaugeReading.objects.get().done_at is None


def test_a_page_listens_once_its_person_has_a_key_that_writes(bench, member, built):
    page = reverse("deck", args=[built.pk])
    assert "data-hears" not in bench.get(page).content.decode()
    make_key(member, "indicator", writes=True)
    assert "data-hears" in bench.get(page).content.decode()
    assert "Listening for your gauge" not in words(bench.get(reverse("verdict", args=[built.pk])))


@pytest.fixture
def answering():
    """A server that fails twice, then answers; what it was sent."""
    got = []

    class Handler(BaseHTTPRequestHandler):
        def do_POST(self):
            got.append(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
            code = 503 if len(got) < 3 else 422 if got[-1]["value"] == "bad" else 201
            self.send_response(code)
            self.end_headers()
            self.wfile.write(b'{"waiting": 1}')

        def log_message(self, *_):
            pass

    with HTTPServer(("127.0.0.1", 0), Handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_port}/", got
        server.shutdown()


def test_the_stand_in_sends_each_reading_until_it_is_answered_with_one_token(answering, tmp_path, monkeypatch, capsys):
    address, got = answering
    monkeypatch.setattr(gauge, "AGAIN_AFTER_S", 0.01)
    file = tmp_path / "readings.txt"
    file.write_text("# two decks\n6 down\n\n7 down\n")
    assert gauge.main(["--address", address, "--key", "k", "--file", str(file), "--gauge", "bridge"]) == 0
    assert [one["value"] for one in got] == ["6 down"] * 3 + ["7 down"]
    assert len({one["token"] for one in got}) == 2
    monkeypatch.setattr(sys, "stdin", io.StringIO("bad\n"))
    assert gauge.main(["--address", address, "--key", "k"]) == 1
    assert "bad: refused" in capsys.readouterr().err
    monkeypatch.delenv("MOLE_KEY", raising=False)
    assert gauge.main(["--file", str(file)]) == 2


def test_the_stand_in_speaks_over_a_pseudo_terminal(tmp_path, monkeypatch, capsys):
    written = []
    monkeypatch.setattr(gauge.os, "write", lambda _, line: written.append(line))
    file = tmp_path / "readings.txt"
    file.write_text("0.112\n-0.004\n")
    assert gauge.main(["--serial", "--unit", "in", "--file", str(file)]) == 0
    assert capsys.readouterr().out.startswith("/dev/")
    assert written == [b"0.112 in\r\n", b"-0.004 in\r\n"]


@pytest.mark.django_db(transaction=True)
def test_of_five_gauges_and_three_pages_at_once_each_reading_is_offered_once_and_in_its_order():
    person = making.person()
    key = make_key(person, "five gauges", writes=True)
    each = 12
    told, begin = [], threading.Barrier(8)

    def play(number):
        begin.wait()
        try:
            program = Program(key)
            for at in range(each):
                said = {"value": f"{number}.{at:02}", "unit": "mm", "token": str(uuid4())}
                # An answer that was lost: the same once more.
                assert [program.post("gauge", said).status_code for _ in range(2)] == [201, 201]
        finally:
            connection.close()

    def look(_):
        client = Client()
        client.force_login(person)
        begin.wait()
        try:
            while len(told) < 5 * each:
                reading = asked(client)["reading"]
                if reading:
                    told.append(reading["text"])
                    done(client, reading["number"])
        finally:
            connection.close()

    with ThreadPoolExecutor(8) as pool:
        for one in [
            *(pool.submit(play, number) for number in range(1, 6)),
            *(pool.submit(look, at) for at in range(3)),
        ]:
            one.result(timeout=120)
    assert sorted(told) == sorted(f"{number}.{at:02} mm" for number in range(1, 6) for at in range(each))
    for number in range(1, 6):
        mine = [text for text in told if text.startswith(f"{number}.")]
        assert mine == sorted(mine)


def test_a_practice_engine_plays_the_gauge_and_tells_what_is_true(monkeypatch, capsys):
    sent = []
    monkeypatch.setattr(gauge, "_send", lambda _address, _key, reading, *_: sent.append(reading) or 0)
    assert gauge.main(["--key", "k", "--practice", "4"]) == 0
    truths = [float(one) for one in re.findall(r"truly ([\d.]+) mm", capsys.readouterr().err)]
    assert (len(sent), len(truths)) == (24, 8)
    for at, true in enumerate(truths):
        # The first slice of each valve is the thinnest: a caliper repeats within 1.5 thou, and is up to one off.
        assert float(sent[3 * at].removesuffix(" mm")) == pytest.approx(true, abs=0.2)
    again = [*gauge._practice(4)]
    assert again == sent
