"""A toy reading, check and change, declared here, go through everything."""

import json
from dataclasses import dataclass
from functools import partial

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.base.faults import Fault, refuse
from mockup.base.stations import Station
from mockup.changes.change import Affected, Along, ChangeKind, EffectFrom
from mockup.changes.options import WhatIfField
from mockup.changes.since import bore_corrections
from mockup.checks.check import Check, Finding, Kind
from mockup.formats.job_read import read_job
from mockup.limits.limit_set import LimitName, in_inches
from mockup.quantity.corrections import Correction, running_figure
from mockup.quantity.fields import Mm, Name
from mockup.quantity.shown import format_bench, format_both
from mockup.quantity.typed import parse_bench_length
from mockup.quantity.value import Value
from mockup.readings.kinds import READING_KINDS, OneField, of_the_newest_engine, reading_kind
from mockup.readings.record import Reading
from tests import making_rows as making
from tests.making import thou
from tests.web.asking import page, post, shown, taken_in
from web.builds.models import Build


@dataclass(frozen=True, slots=True, kw_only=True)
class SlackReading(Reading):
    """The slack of a toy at one cylinder [mm], 0 to 5."""

    mockup: Name
    cylinder: int
    slack_mm: Mm

    def __post_init__(self) -> None:
        refuse([] if 0 <= self.slack_mm <= 5 else [Fault("slack_mm", "A slack of 0 to 5 mm.")])


def _corrections(reading, context):
    moved = bore_corrections(context.changes, reading.after, reading.cylinder, context.engine, Affected.named("slack"))
    return (Correction("as read", Value(reading.slack_mm, 0.01)), *moved)


def _slacks(context):
    limit = context.job.limits.minimum(LimitName.named("slack"))
    for reading in of_the_newest_engine(context.job.of(SlackReading), context.job.engine, context.job.changes):
        again = partial(_corrections, reading)
        corrections = again(context)
        finding = Finding(
            figure=running_figure(corrections),
            method="toy",
            corrections=corrections,
            evidence=(reading.key,),
            carried=tuple(correction.text for correction in corrections[1:]),
            read_again=len(corrections) > 1,
            again=again,
        )
        label = f"Slack {reading.cylinder}"
        yield Check(kind=Kind.named("slack"), cylinder=reading.cylinder, label=label, limit=limit, governing=finding)


@pytest.fixture(autouse=True)
def toy():
    """Declared before each test, and forgotten after it."""
    every = tuple(ChangeKind.all())
    slack = Affected("slack", order=999, takes=(Along, EffectFrom), left_by=every)
    left = frozenset(Affected.all()) - {slack}
    ChangeKind(
        "toy shimmed",
        order=999,
        along=True,
        is_length=False,
        touches={slack: Along(-1.0)},
        leaves=left,
        in_words=lambda change, unit, _: f"toy shimmed {format_bench(change.front_mm, unit)}",
        again="Read the slack.",
        field=WhatIfField(name="toy", label="Toy shimmed", group="Stack", order=99),
    )
    LimitName("slack", order=999, label="Slack of the toy, least", usual=in_inches(street=0.010))
    Kind("slack", order=999, label="Toy", make=_slacks, station=Station.DECK, ask="Read the slack of")
    reading_kind(
        name="slack",
        listed="slacks",
        words="slack of the toy",
        station=Station.DECK,
        of=lambda reading: reading.cylinder,
        reads=lambda _: slack,
        echo={"slack": lambda asked: format_both(parse_bench_length(asked.text, asked.unit), asked.unit)},
        one_field=OneField(
            label="Slack",
            read=lambda text, unit, at: SlackReading(
                mockup=at.mockup, cylinder=at.cylinder, slack_mm=parse_bench_length(text, unit)
            ),
            shown=lambda reading, unit: format_bench(reading.slack_mm, unit),
        ),
    )(SlackReading)
    yield
    READING_KINDS.drop(SlackReading)
    for of, words in ((Kind, "slack"), (LimitName, "slack"), (ChangeKind, "toy shimmed"), (Affected, "slack")):
        of.drop(words)


def said(answer):
    return " ".join(answer.content.decode().split())


def test_it_is_echoed_typed_kept_and_refused_at_its_field(bench, whole):
    echo = bench.get(reverse("understood"), {"as": "slack", "text": "20", "unit": "in"}).content.decode()
    assert "0.0200 in" in echo
    assert "Slack, cylinder 2" in said(page(bench, whole, "?cylinder=2", "deck"))
    bench.post(reverse("deck", args=[whole.pk]) + "?cylinder=2", {"slack": "20"})
    (line,), (reading,) = making.lines(whole, "slack"), making.items(whole, "slack")
    assert (line.typed, reading.cylinder, reading.mockup) == ("20", 2, "A")
    assert reading.slack_mm == pytest.approx(thou(20))
    wrong = post(bench, whole, "deck", slack="9mm")
    assert (wrong.status_code, "A slack of 0 to 5 mm." in said(wrong), "9mm" in said(wrong)) == (422, True, True)
    bench.post(reverse("deck", args=[whole.pk]), {"strike": line.key, "reason": "a toy"})
    assert making.lines(whole, "slack")[0].struck_reason == "a toy"


def test_it_is_judged_shown_and_written_down(bench, whole, member):
    making.write(whole, member, SlackReading(mockup="A", cylinder=1, slack_mm=thou(20)))
    answer = page(bench, whole, "", "verdict")
    cell = next(cell for cell in answer.context["strip"] if cell.label == "Toy")
    assert (cell.state, cell.big) == ("clear", "+10")
    assert "Slack of the toy, least" in said(answer)
    assert "Slack 1" in said(page(bench, whole, "?cylinder=1", "deck"))
    assert "slack of the toy" in said(page(bench, whole, "", "history"))
    assert "Slack 1" in said(page(bench, whole, "", "sheet"))
    bench.post(
        reverse("verdict", args=[whole.pk]), {"change": "1", "limit": "slack", "length": "30", "reason": "the maker"}
    )
    cell = next(cell for cell in page(bench, whole, "", "verdict").context["strip"] if cell.label == "Toy")
    assert cell.state == "short"


def test_it_goes_out_and_comes_in_again_with_its_limit_and_its_change(bench, whole, member):
    making.write(whole, member, SlackReading(mockup="A", cylinder=1, slack_mm=thou(20)))
    bench.post(
        reverse("verdict", args=[whole.pk]), {"change": "1", "limit": "slack", "length": "12", "reason": "the maker"}
    )
    post(bench, whole, toy="5", plan="1")
    text = bench.get(reverse("export", args=[whole.pk])).content.decode()
    data = json.loads(text)
    assert [(one["cylinder"], one["slack"]) for one in data["slacks"]] == [(1, "0.02 in")]
    assert data["limits"]["edits"] == [{"limit": "slack", "value": "0.012 in", "reason": "the maker"}]
    assert [one["kind"] for one in data["changes"]] == ["toy shimmed"]
    taken_in(bench, text.encode())
    with scope(shop=whole.shop):
        copy = Build.objects.order_by("-pk").first()
    again = read_job(bench.get(reverse("export", args=[copy.pk])).content.decode())
    assert [one.slack_mm for one in again.of(SlackReading)] == [pytest.approx(thou(20))]
    assert [change.kind for change in again.changes] == ["toy shimmed"]


def test_a_what_if_of_the_toy_change_moves_it_and_once_done_it_is_stale(bench, whole, member):
    making.write(whole, member, SlackReading(mockup="A", cylinder=1, slack_mm=thou(20)))
    asked = page(bench, whole, "?toy=5")
    pair = shown(asked)["Toy"]
    assert (pair.before, pair.after, pair.moved) == ("+10", "+5", True)
    assert not shown(asked)["Intake"].moved
    post(bench, whole, toy="5", plan="1")
    (decided,) = making.lines(whole, "change")
    assert "toy shimmed 5" in said(page(bench, whole, "", "put-right"))
    post(bench, whole, done=decided.key)
    stale = page(bench, whole, "", "deck")
    assert "Read again: Slack 1; toy shimmed since it was read." in [
        step.text for step in stale.context["report"].steps
    ]
