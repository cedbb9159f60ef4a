"""The stand: its summaries are never behind the books, and a build is found among many."""

import pytest
from django.core.management import CommandError, call_command
from django.db import transaction
from django.test import Client
from django.urls import reverse
from django_scopes import scope, scopes_disabled

from mockup.changes.change import Change
from mockup.changes.cuts import HEAD_CUT
from mockup.checks.valve_limits import FACE_EXHAUST_LIMIT
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.running import Running
from mockup.engine.valves import Place, Side
from mockup.evaluate import evaluate
from mockup.plans.what_if import WhatIf
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from mockup.readings.tdc import TdcReading
from tests import making_rows as making
from tests.making import CARD, thou
from tests.web import words
from tests.web.asking import taken_in
from web.builds import append_entries, services, summaries
from web.builds.assemble import assemble
from web.builds.entry_kinds import CamSteps, LimitEdit
from web.builds.models import Build, Entry, MockUp, Summary
from web.demo.scenario import fill
from web.shops.models import Person

EXHAUST = Place(2, Side.EXHAUST)
CHANGE = Change(key="", kind=HEAD_CUT, front_mm=0.1, rear_mm=0.1)
WRITES = {
    "a deck": lambda built, by: services.write(built, DeckReading(key="", cylinder=1, clearance_mm=0.2), by),
    "clay": lambda built, by: services.write(
        built, ClayReading(key="", mockup="A", place=EXHAUST, thickness_mm=thou(80)), by
    ),
    "TDC": lambda built, by: services.write(built, TdcReading(key="", before_deg=28.0, after_deg=31.0), by),
    "a gasket": lambda built, by: services.write(built, FinalGasket(name="thin", compressed_mm=0.7, bore_mm=97.0), by),
    "shims": lambda built, by: services.write(built, BaseShims(total_mm=0.3, words="0.3"), by),
    "a limit": lambda built, by: services.write(
        built, LimitEdit(limit=FACE_EXHAUST_LIMIT, value=3.0, reason="maker"), by
    ),
    "a card": lambda built, by: services.write(built, CARD, by),
    "cam steps": lambda built, by: services.write(built, CamSteps(steps_deg=(1.0, 2.0)), by),
    "pushrods": lambda built, by: services.write(
        built, PushrodChoice(low_mm=0.5, aim_mm=1.0, high_mm=2.0, chosen_mm=187.0), by
    ),
    "running": lambda built, by: services.write(built, Running(compression_height_mm=40.0), by),
    "a change": lambda built, by: services.write(built, CHANGE, by),
    "a change done": lambda built, by: services.mark_done(built, services.write(built, CHANGE, by), by),
    "a mock-up": lambda built, by: services.save_mockup(built, by, MockUp.objects.filter(build=built).last().core),
    "another name": lambda built, by: services.save_build(built, by, name="Teal"),
    "other limits": lambda built, by: services.choose_limits(built, "makers", by),
    "a what-if": lambda built, by: services.keep_what_if(built, WhatIf(name="x", changes=(CHANGE,)), by),
    "a plan": lambda built, by: services.plan(built, WhatIf(name="x", changes=(CHANGE,)), None, by),
    "a strike": lambda built, by: services.strike(Entry.objects.filter(build=built, kind="clay").last(), by, "misread"),
    "an undo": lambda built, by: append_entries.undo(append_entries.last_of(built, by), by),
    "put away": services.put_away,
}


def summary_of(built):
    return Summary.objects.get(build=built)


def stands_as_evaluated(built):
    built = Build.objects.get(pk=built.pk)
    kept, report = summary_of(built), evaluate(assemble(built))
    return kept.card == summaries.card_of(report) and kept.state == report.verdict and str(built).lower() in kept.words


@pytest.mark.parametrize("name", WRITES)
def test_after_every_kind_of_write_the_summary_is_what_evaluate_says(member, whole, name):
    other = making.person("rosalind")
    with scope(shop=member.shop):
        before = summary_of(whole)
        assert stands_as_evaluated(whole)
        WRITES[name](whole, member if name == "an undo" else other)
        after = summary_of(whole)
        assert stands_as_evaluated(whole)
        assert after.touched_at > before.touched_at
        assert name == "an undo" or other.pk in after.people


def test_every_service_that_writes_is_among_them():
    writing = {"write", "strike", "mark_done", "save_build", "save_mockup", "choose_limits", "plan"}
    writing |= {"keep_what_if", "copy_build", "put_away"}
    named = {
        name
        for name, one in vars(services).items()
        if callable(one) and getattr(one, "__module__", "") == services.__name__ and not name.startswith("_")
    }
    assert named - writing == {"locked", "next_letter"}


def test_a_copy_and_an_imported_file_stand_as_evaluated(bench, member, whole):
    with scope(shop=member.shop):
        assert stands_as_evaluated(services.copy_build(whole, member, "Grebe"))
        before = Build.objects.count()
        assert taken_in(bench, bench.get(reverse("export", args=[whole.pk])).content).status_code == 302
        assert Build.objects.count() == before + 1
        assert stands_as_evaluated(Build.objects.latest("pk"))


def fails_after_writing(writing, built, by):
    with writing():
        WRITES["clay"](built, by)
        raise ZeroDivisionError


def test_what_is_rolled_back_leaves_the_summary_as_it_was(member, whole):
    with scope(shop=member.shop):
        before = summary_of(whole).card
        for writing in (transaction.atomic, lambda: services.locked(whole)):
            with pytest.raises(ZeroDivisionError):
                fails_after_writing(writing, whole, member)
            assert summary_of(whole).card == before
        # Whatever went wrong in one writing, the next one is summarised.
        WRITES["clay"](whole, member)
        assert stands_as_evaluated(whole)


def test_a_reading_is_kept_even_where_its_summary_cannot_be_made(bench, member, built, monkeypatch):
    def fails(*_):
        raise ZeroDivisionError

    monkeypatch.setattr(summaries, "report_of", fails)
    with scope(shop=member.shop):
        services.write(built, DeckReading(key="", cylinder=1, clearance_mm=0.2), member)
        assert summary_of(built).state == "unreadable"
    assert len(making.lines(built, "deck")) == 1
    builds_list = bench.get(reverse("builds"))
    assert "This build cannot be read." in words(builds_list)


def test_a_copy_of_a_build_that_was_put_away_stands_on_the_stand(member, whole):
    with scope(shop=member.shop):
        services.put_away(whole, member)
        copied = services.copy_build(Build.objects.get(pk=whole.pk), member, "Grebe")
        assert copied.put_away_at is None


def test_a_strike_that_was_rolled_back_is_not_taken_for_another_one(member, whole):
    first, *_, last = making.lines(whole, "clay")
    with scope(shop=member.shop):
        with pytest.raises(ZeroDivisionError), transaction.atomic():  # noqa: PT012
            services.strike(first, member, "misread")
            raise ZeroDivisionError
        services.strike(last, member, "misread")
        assert stands_as_evaluated(whole)


def test_another_arithmetic_is_noticed_when_it_is_shown_and_by_the_command(bench, member, whole, built):
    with scopes_disabled():
        Summary.objects.update(version="old", card={"engine_line": "from before"})
        Summary.objects.filter(build=built).delete()
    with scope(shop=member.shop):
        assert summaries.any_old()
        assert "not re-evaluated yet" not in words(bench.get(reverse("builds"))), "all of them are on this page"
        assert stands_as_evaluated(whole)
        Summary.objects.update(version="old", card={})
        assert "2 builds of the shop are not re-evaluated yet" in words(bench.get(reverse("builds"), {"q": "zz"}))
        Summary.objects.update(version="old", card={})
    call_command("summarise")
    with scope(shop=member.shop):
        assert stands_as_evaluated(whole)
        assert stands_as_evaluated(built)
        assert not summaries.any_old()


@pytest.fixture
def filled(db):
    """The demo's four in a shop with two people; a client of the owner."""
    owner = making.person("ottoline", role=Person.Role.OWNER)
    making.person("rosalind")
    with scope(shop=owner.shop):
        fill(owner)
    client = Client()
    client.force_login(owner)
    return client


def names(client, **asked):
    return [card["build"].name for card in client.get(reverse("builds"), asked).context["cards"]]


@pytest.mark.parametrize(
    ("asked", "found"),
    [
        ({}, ["Plover", "Lapwing", "Wren", "Bittern"]),
        ({"order": "name"}, ["Bittern", "Lapwing", "Plover", "Wren"]),
        ({"order": "begun"}, ["Plover", "Lapwing", "Wren", "Bittern"]),
        ({"order": "tight"}, ["Wren", "Bittern", "Plover", "Lapwing"]),
        ({"q": "TWIN"}, ["Lapwing"]),
        ({"q": "inline six"}, ["Bittern"]),
        ({"q": "hill special"}, ["Wren"]),
        ({"q": "composite"}, ["Wren"]),
        ({"q": "rosalind", "order": "name"}, ["Bittern", "Lapwing", "Plover", "Wren"]),
        ({"q": "100%"}, []),
        ({"q": "_"}, []),
        ({"state": "clear"}, ["Lapwing"]),
        ({"state": "not clear", "order": "name"}, ["Bittern", "Wren"]),
        ({"mine": "1", "order": "name"}, ["Bittern", "Wren"]),
        ({"away": "1"}, []),
        ({"state": "nonsense", "order": "nonsense", "page": "nonsense", "q": " " * 9}, "all"),
        ({"page": "99999999999999999999"}, "all"),
        ({"q": "x" * 40_000}, []),
    ],
)
def test_builds_are_found_sorted_and_filtered(filled, asked, found):
    assert names(filled, **asked) == (["Plover", "Lapwing", "Wren", "Bittern"] if found == "all" else found)


def test_a_build_is_put_away_and_brought_back(bench, viewer, stranger, member, whole):
    address = reverse("put-away", args=[whole.pk])
    assert viewer.post(address).status_code == 403
    assert stranger.post(address).status_code == 404
    assert "put away" in words(bench.post(address, follow=True))
    assert names(bench) == []
    assert "every build is put away" in words(bench.get(reverse("builds")))
    assert names(bench, away="1") == ["Bittern"]
    assert bench.get(reverse("deck", args=[whole.pk])).status_code == 200  # it is only off the stand
    bench.post(address, {"back": "1"})
    bench.post(address, {"back": "1"})
    assert names(bench) == ["Bittern"]
    assert [line.data["changes"][0][1:] for line in making.lines(whole, "edited")] == [
        ["in the list", "put away"],
        ["put away", "in the list"],
    ]


def test_another_shop_sees_none_of_it(stranger, filled):
    assert names(stranger, q="bittern") == []


def test_twenty_five_stand_on_a_page_and_the_rest_is_a_step_away(bench, member):
    with scope(shop=member.shop), summaries.put_off():
        for number in range(27):
            making.build(member, name=f"Build {number:02}")
    first = bench.get(reverse("builds"), {"order": "name", "q": "build"})
    assert len(first.context["cards"]) == 25
    assert "1 to 25 of 27" in words(first)
    assert 'href="?q=build&amp;order=name&amp;page=2"' in first.content.decode()
    assert names(bench, order="name", page="2") == ["Build 25", "Build 26"]


def test_of_a_search_the_first_thousand_are_counted_and_more_is_said(bench, member, monkeypatch):
    monkeypatch.setattr("web.builds_list.search.MOST_FOUND", 26)
    with scope(shop=member.shop), summaries.put_off():
        for number in range(28):
            making.build(member, name=f"Build {number:02}")
    assert "1 to 25 of 26; there are more: refine the search" in words(bench.get(reverse("builds"), {"q": "build"}))
    assert "1 to 25 of 28" in words(bench.get(reverse("builds")))


def test_the_queries_of_the_stand_do_not_grow_with_its_builds(bench, member, django_assert_num_queries):
    making.build(member)
    with django_assert_num_queries(7):
        bench.get(reverse("builds"))
    for number in range(6):
        making.build(member, name=f"Build {number}")
    with django_assert_num_queries(7):
        bench.get(reverse("builds"))


def test_seeded_builds_stand_as_their_own_rows_evaluate(bench, member):
    with pytest.raises(CommandError, match="No member of a shop has the user name “nobody”"):
        call_command("seed", "3", "--person", "nobody")
    with pytest.raises(CommandError, match="20 entries"):
        call_command("seed", "3", "--lines", "3", "--person", member.username)
    call_command("seed", "20", "--lines", "40", "--person", member.username)
    with scope(shop=member.shop):
        builds = list(Build.objects.all())
        assert len(builds) == len({build.name for build in builds}) == 20
        assert all(Entry.objects.filter(build=build).count() == 41 for build in builds)
        assert all(stands_as_evaluated(build) for build in builds)
        assert len({build.summary.state for build in Build.objects.select_related("summary")}) >= 2
    assert names(bench, q="avocet", order="name") == ["Avocet 1", "Avocet 2", "Avocet 3"]
