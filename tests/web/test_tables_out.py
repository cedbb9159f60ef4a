"""Checks and readings as tables, the report as text: read by the standard library."""

import csv
import io

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.web import words
from web.builds import services


def table(client, built, name):
    answer = client.get(reverse(name, args=[built.pk]))
    assert answer["Content-Type"] == "text/csv; charset=utf-8"
    return list(csv.DictReader(io.StringIO(answer.content.decode())))


def test_every_check_of_the_verdict_is_a_line_with_its_figure(bench, whole):
    lines = table(bench, whole, "checks-csv")
    report = bench.get(reverse("verdict", args=[whole.pk])).context["report"]
    assert [line["check"] for line in lines] == [check.label for check in report.checks]
    for line, check in zip(lines, report.checks, strict=True):
        assert line["state"] == check.state
        assert (line["figure"] == "") == (check.figure is None)
        if check.figure:
            assert float(line["figure"]) == pytest.approx(check.figure.value, rel=1e-4)
            assert float(line["U"]) == pytest.approx(check.figure.expanded, abs=1e-4)


def test_every_reading_is_a_line_as_typed_with_who_struck_it(bench, built, member):
    bench.post(reverse("deck", args=[built.pk]), {"deck-1": "6 down"})
    bench.post(reverse("deck", args=[built.pk]), {"deck-1": "5 down"})
    with scope(shop=member.shop):
        services.strike(making.lines(built, "deck")[0], member, "=read twice, “so”\nand wrong")
    first, second = table(bench, built, "readings-csv")
    assert (first["typed"], second["typed"], second["struck out"]) == ("6 down", "5 down", "")
    assert first["read by"] == member.shown_name
    assert (first["cylinder"], first["clearance (in, + down)"]) == ("1", "0.006")
    assert "=read twice, “so”\nand wrong" in first["struck out"]


@pytest.mark.parametrize(
    ("typed", "cell"), [("=1+1", "'=1+1"), ("@x", "'@x"), ("-x", "'-x"), ("+5", "'+5"), ("-5", "-5")]
)
def test_no_cell_is_a_formula(bench, built, member, typed, cell):
    with scope(shop=member.shop):
        services.write(built, DeckReading(key="", cylinder=1, clearance_mm=0.1), member, typed=typed)
    (line,) = table(bench, built, "readings-csv")
    assert line["typed"] == cell


def test_the_report_as_text_says_what_the_command_says_and_is_offered(bench, whole):
    said = bench.get(reverse("report-txt", args=[whole.pk])).content.decode()
    assert said.startswith("Bittern")
    assert "Next:" in said
    assert "The readings as CSV" in words(bench.get(reverse("assembly", args=[whole.pk])))
