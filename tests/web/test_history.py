"""The history in words: where and what of each kind of entry."""

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django_scopes import scope

from mockup.changes.train import CAM_MOVED
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT
from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading, Gap, HeadReading, HeadSpot
from mockup.readings.deck import DeckReading
from mockup.readings.sweep import SweepReading
from mockup.readings.volumes import VolumePart, VolumeReading
from tests import making_rows as making
from tests.making import change, deck, thou
from web.builds import services
from web.builds.entry_kinds import AssemblyItem, BuildSigned, CamSteps, Copied, Edited, LimitEdit, Turning
from web.page.log_words import Written, gathered

EXHAUST = Place(2, Side.EXHAUST)


def latest(client, built):
    return client.get(reverse("history", args=[built.pk])).context["lines"][0]


@pytest.mark.parametrize(
    ("item", "kind", "where", "what"),
    [
        (deck(2, 4, key=""), "deck", "2", "typed"),
        (ClayReading(key="", mockup="A", place=EXHAUST, thickness_mm=2.5), "clay", "Exhaust 2", "typed"),
        (
            ClayReading(key="", mockup="A", place=EXHAUST, thickness_mm=1.5, gap=Gap.RADIAL),
            "clay", "Exhaust 2 edge", "typed",
        ),
        (
            HeadReading(key="", mockup="A", cylinder=1, spot=HeadSpot.PLUG, thickness_mm=2.0),
            "clay between crown and head", "1 plug", "typed",
        ),
        (
            SweepReading(key="", mockup="A", place=EXHAUST, crank_deg=-5.0, clearance_mm=thou(99)),
            "indicator", "Exhaust 2", "5 BTDC typed",
        ),
        (VolumeReading(key="", part=VolumePart.CHAMBER, cylinder=2, cc=63.0), "volume", "2 chamber", "typed"),
        (
            LimitEdit(limit=FACE_EXHAUST_LIMIT, value=thou(90), reason="cam maker says so"),
            "limit", "", "face exhaust: 90 thou. cam maker says so",
        ),
        (change(CAM_MOVED, -2.0, None, side=Side.INTAKE), "decided", "intake", "intake cam retarded 2°"),
        (CamSteps(steps_deg=(2.0, 4.0)), "cam steps", "", "typed"),
        (Turning(mockup="A", checked=("plugs", "dowels")), "before turning", "", "plugs, dowels"),
        (AssemblyItem(key="clay", words="Clay out.", done=True), "assembly list", "", "Clay out.: done"),
        (AssemblyItem(key="clay", out=True), "assembly list", "", "clay: left out"),
        (BuildSigned(standing="x", note="for Friday"), "build signed", "", "for Friday"),
        (Edited(changes=(("bore_mm", "95.25", "96"),)), "engine changed", "", "bore mm 95.25 → 96"),
        (Copied(of="Bittern hull 2"), "begun as a copy", "", "Bittern hull 2"),
    ],
)  # fmt: skip
def test_a_line_says_where_and_what_it_is_about(bench, whole, member, item, kind, where, what):
    making.write(whole, member, item)
    line = latest(bench, whole)
    assert (line.kind, line.where, line.what) == (kind, where, what)
    assert (line.by, line.struck) == ("clementine", "")


def test_a_valve_is_lettered_only_where_its_side_has_several(bench, member):
    built = making.read_build(member, valves=2)
    making.write(built, member, ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST, 2), thickness_mm=2.5))
    assert latest(bench, built).where == "Exhaust 2b"


def test_readings_of_one_thing_by_one_person_on_one_day_stand_in_one_line():
    def line(what, at="2026-01-02T10:00", where="Intake 1", by="Ottoline"):
        return Written(at, by, "clay", where, what, "", is_reading=True, mockup="A")

    lines = [line("95"), line("96", at="2026-01-02T10:05"), line("97", by="Barnaby"), line("98", where="Intake 2")]
    lines.append(line("99", at="2026-01-03T09:00"))
    assert [(one.where, one.by, one.what, one.at) for one in gathered(lines)] == [
        ("Intake 1", "Ottoline", "95; 96", "2026-01-02"),
        ("Intake 1", "Barnaby", "97", "2026-01-02"),
        ("Intake 2", "Ottoline", "98", "2026-01-02"),
        ("Intake 1", "Ottoline", "99", "2026-01-03"),
    ]


def test_struck_lines_and_many_people_ask_no_more_of_the_database(bench, built, member, django_assert_num_queries):
    people = [making.person(f"person-{number}") for number in range(5)]

    def read_and_struck(by):
        (line,) = making.write(built, by, DeckReading(key="", cylinder=1, clearance_mm=0.1))
        with scope(shop=by.shop):
            services.strike(line, people[0], "read twice")

    read_and_struck(member)
    address = reverse("history", args=[built.pk])
    bench.get(address)
    with CaptureQueriesContext(connection) as few:
        bench.get(address)
    for person in people:
        read_and_struck(person)
    with django_assert_num_queries(len(few)):
        assert bench.get(address).context["count"] == 6
