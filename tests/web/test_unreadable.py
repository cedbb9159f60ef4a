"""An entry for a missing cylinder breaks nothing: refused, or shown and struck out."""

from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection
from django.urls import reverse
from django_scopes import scope

from mockup.base.faults import FaultsError
from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import thou
from tests.web.asking import page, post
from web.builds import services
from web.builds.entry_kinds import data_of, kind_of
from web.builds.models import Build, Entry
from web.builds.summaries import summarise

STATIONS = ["block", "deck", "verdict", "clay", "put-right", "history", "sheet", "build", "export"]


def planted(built, by):
    """A deck reading of a missing cylinder, as an older version could leave behind."""
    item = DeckReading(key="", cylinder=8, clearance_mm=thou(5))
    with scope(shop=by.shop):
        return Entry.objects.create(build=built, kind=kind_of(item), data=data_of(item), typed="5 down", by=by)


@pytest.mark.parametrize(
    "item",
    [
        DeckReading(key="", cylinder=8, clearance_mm=thou(5)),
        ClayReading(key="", mockup="A", place=Place(1, Side.INTAKE, 2), thickness_mm=thou(95)),
    ],
    ids=["cylinder", "valve"],
)
def test_a_line_for_a_place_that_is_gone_is_refused(whole, member, item):
    with scope(shop=member.shop), pytest.raises(FaultsError, match="There is no"):
        services.write(whole, item, member)


def test_a_reading_typed_after_its_cylinder_was_taken_away_comes_back_with_its_text(bench, built, member):
    with scope(shop=member.shop):
        stale = Build.objects.get(pk=built.pk)
        assert stale.engine.cylinders == 2
        making.save(Build.objects.get(pk=built.pk), member, cylinders=1)
    with scope(shop=member.shop), pytest.raises(FaultsError, match="no cylinder 2"):
        services.write(stale, DeckReading(key="", cylinder=2, clearance_mm=thou(5)), member)
    assert making.lines(built, "deck") == []


@pytest.mark.django_db(transaction=True)
def test_taking_cylinders_away_while_another_reads_them_leaves_a_build_that_can_be_read(bench, built, member):
    def at_once(work):
        try:
            with scope(shop=member.shop):
                work(Build.objects.get(pk=built.pk))
        except FaultsError as error:
            return str(error)
        finally:
            connection.close()
        return ""

    def read(build):
        services.write(build, DeckReading(key="", cylinder=2, clearance_mm=thou(5)), member)

    def fewer(build):
        making.save(build, member, cylinders=1)

    for _ in range(6):
        with scope(shop=member.shop):
            Entry.objects.filter(build=built, kind="deck").delete()
            making.save(Build.objects.get(pk=built.pk), member, cylinders=2)
        with ThreadPoolExecutor(2) as people:
            refused = list(people.map(at_once, [read, fewer]))
        assert sum(bool(words) for words in refused) == 1, "one of the two is taken, the other told why not"
        assert page(bench, built, name="verdict").status_code == 200


def test_the_stand_and_other_builds_go_on_beside_an_unreadable_one(bench, whole, member):
    other = making.read_build(member)
    planted(whole, member)
    with scope(shop=member.shop):
        summarise(whole.pk)  # as after an update of the program, whose arithmetic may not have such a line
    builds_list = bench.get("/")
    assert builds_list.status_code == 200
    assert "cannot be read" in builds_list.content.decode()
    assert page(bench, other, name="verdict").status_code == 200


@pytest.mark.parametrize("station", STATIONS)
def test_every_page_of_an_unreadable_build_leads_to_its_mending(bench, whole, member, station):
    planted(whole, member)
    mending = reverse("mend", args=[whole.pk])
    answer = page(bench, whole, name=station)
    assert (answer.status_code, answer.url) == (302, mending)
    fragment = bench.get(reverse(station, args=[whole.pk]), headers={"HX-Request": "true"})
    assert fragment.headers.get("HX-Redirect") == mending


def test_the_line_in_the_way_is_named_and_struck_out(bench, whole, member):
    entry = planted(whole, member)
    shown = page(bench, whole, name="mend").content.decode()
    assert "There is no cylinder 8" in shown
    assert "5 down" in shown
    refused = post(bench, whole, "mend", strike=entry.key, reason="")
    assert refused.status_code == 422
    assert "Give the reason" in refused.content.decode()
    assert post(bench, whole, "mend", strike=entry.key, reason="written for another engine").status_code == 302
    assert page(bench, whole, name="verdict").status_code == 200
    assert "written for another engine" in page(bench, whole, name="history").content.decode()


def test_a_line_that_cannot_be_read_at_all_is_in_the_way_too(bench, whole, member):
    with scope(shop=member.shop):
        Entry.objects.create(build=whole, kind="deck", data={"cylinder": "what"}, by=member)
    assert "It cannot be read" in page(bench, whole, name="mend").content.decode()


@pytest.mark.parametrize("kept", [{}, {"cylinders": "many"}, {"cylinders": 4, "bore_mm": 2.0}, [1, 2]])
def test_a_build_whose_engine_cannot_be_read_leaves_the_shop_as_usual(bench, whole, member, kept):
    other = making.build(member, name="Teal")
    with scope(shop=member.shop):
        Build.objects.filter(pk=whole.pk).update(engine_kept=kept)
    builds_list = bench.get(reverse("builds"))
    assert builds_list.status_code == 200
    assert "Teal" in builds_list.content.decode()
    for name in STATIONS:
        answer = bench.get(reverse(name, args=[whole.pk]), follow=True)
        assert answer.status_code == 200, name
        assert "Its engine cannot be read" in answer.content.decode()
    assert bench.get(reverse("deck", args=[other.pk])).status_code == 200


def test_a_mock_up_that_cannot_be_read_is_said_and_the_shop_goes_on(bench, whole, member):
    with scope(shop=member.shop):
        whole.mockups.update(conditions={"gasket_state": "chewing gum"})
    assert bench.get(reverse("builds")).status_code == 200
    for name in STATIONS:
        answer = bench.get(reverse(name, args=[whole.pk]), follow=True)
        assert (name, answer.status_code) == (name, 200)
        assert "gasket_state" in answer.content.decode()
