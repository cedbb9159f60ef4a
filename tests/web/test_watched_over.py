"""Monitoring: alive and ready, and what a server logs of faults."""

import json
import logging

import pytest
from django.db import OperationalError
from django.test import Client

from tests.web import words
from web.builds import reports
from web.page import health
from web.page.errors import JsonLines


@pytest.mark.parametrize("host", ["127.0.0.1", "nowhere.example", "[::1]"])
def test_it_says_that_it_is_alive_and_ready_under_any_host_name(db, settings, host):
    settings.ALLOWED_HOSTS = ["bench.example"]
    for path, said in (("/alive/", "alive"), ("/healthy/", "healthy")):
        answer = Client().get(path, headers={"host": host})
        assert (answer.status_code, answer.content.decode()) == (200, said)


def test_without_its_database_it_is_alive_and_not_ready(db, monkeypatch):
    class Gone:
        closed = False

        def cursor(self):
            raise OperationalError("terminating connection")

        def close(self):
            Gone.closed = True

    monkeypatch.setattr(health, "connection", Gone())
    assert Client().get("/alive/").status_code == 200
    answer = Client().get("/healthy/")
    assert (answer.status_code, answer.content.decode()) == (503, "the database does not answer")
    assert Gone.closed, "the next request opens another one"


def test_what_breaks_has_a_number_on_its_page_in_its_header_and_in_the_log(bench, built, monkeypatch, caplog):
    def broken(_job):
        raise RuntimeError("a fault of ours")

    monkeypatch.setattr("web.builds.reports.evaluate", broken)
    reports._kept.clear()
    bench.raise_request_exception = False
    answer = bench.get(f"/builds/{built.pk}/deck/")
    number = answer.headers["X-Request-ID"]
    assert answer.status_code == 500
    assert f"logged as {number}" in words(answer)
    assert any(record.levelno == logging.ERROR and record.exc_info for record in caplog.records)


def test_a_line_of_the_log_is_json_with_where_and_why(rf):
    record = logging.LogRecord("django.request", logging.ERROR, "f.py", 1, "Internal Server Error: %s", ("/x/",), None)
    record.request = rf.post("/x/", {"reason": "a secret"})
    line = json.loads(JsonLines().format(record))
    assert {"level": "error", "of": "django.request", "method": "POST", "path": "/x/"}.items() <= line.items()
    assert "a secret" not in json.dumps(line)


def test_every_answer_carries_its_number(bench, built):
    numbers = {bench.get(f"/builds/{built.pk}/deck/").headers["X-Request-ID"] for _ in range(3)}
    assert len(numbers) == 3
