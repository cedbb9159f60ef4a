"""Begin a build with a name and cylinders; only what is checked is asked for."""

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.base.topics import Topic
from mockup.formats.job_read import read_job
from tests import making_rows as making
from tests.web import words
from tests.web.forms import LEAST
from web.builds.models import Build
from web.exchange.import_job import build_from


def begun(bench, member, **more):
    answer = bench.post(reverse("new-build"), LEAST | more, follow=True)
    assert answer.status_code == 200
    with scope(shop=member.shop):
        return Build.objects.get(name="Tern"), answer


def test_a_name_and_its_cylinders_are_enough(bench, member):
    tern, answer = begun(bench, member)
    assert tern.engine.unstated == ("bore", "stroke", "rod length")
    assert tern.checking == ()
    assert "inline four · two valves at an angle not stated" in words(answer)


@pytest.mark.parametrize(
    ("topics", "opens_at"),
    [
        ([Topic.VALVES], "mock-up"),
        ([Topic.DECK], "deck"),
        ([Topic.RATIO], "deck"),
        ([Topic.RATIO, Topic.DECK], "deck"),
        ([Topic.VALVES, Topic.DECK], "tdc"),
    ],
)
def test_it_opens_where_the_first_thing_asked_for_is_read(bench, member, topics, opens_at):
    tern, answer = begun(bench, member, checking=topics)
    assert set(tern.checking) == set(topics)
    assert answer.redirect_chain[-1][0] == reverse(opens_at, args=[tern.pk])


def test_all_ticked_is_everything_and_nonsense_is_refused_with_what_was_typed(bench, member):
    tern, _ = begun(bench, member, checking=list(Topic))
    assert tern.checking == ()
    refused = bench.post(reverse("new-build"), LEAST | {"name": "Plover", "checking": "beauty"})
    assert refused.status_code == 422
    assert 'value="Plover"' in refused.content.decode()


def test_the_strip_and_the_run_show_what_is_checked_and_fold_the_rest(bench, member):
    tern, _ = begun(bench, member, checking=[Topic.VALVES])
    page = bench.get(reverse("clay", args=[tern.pk]))
    assert [cell.label for cell in page.context["strip"]] == ["Intake", "Exhaust"]
    assert {str(station) for station, _ in page.context["aside"]} == {
        "deck", "volumes", "quench", "pushrods", "before you buy",
    }  # fmt: skip
    assert "More of this engine" in words(page)
    assert "Not asked for: deck and quench" in words(bench.get(reverse("verdict", args=[tern.pk])))


def test_what_it_is_checked_for_can_be_changed_and_the_book_says_so(bench, member):
    tern, _ = begun(bench, member, checking=[Topic.VALVES])
    changed = bench.post(reverse("block", args=[tern.pk]), LEAST | {"checking": [Topic.VALVES, Topic.DECK]})
    assert changed.status_code == 302
    with scope(shop=member.shop):
        assert Build.objects.get(pk=tern.pk).checking == (Topic.VALVES, Topic.DECK)
    (line,) = making.lines(tern, "edited")
    assert line.data["changes"] == [["checking", "valve clearance", "valve clearance, deck and quench"]]


def test_it_goes_out_and_comes_in_with_what_it_is_checked_for(bench, member):
    tern, _ = begun(bench, member, checking=[Topic.PUSHRODS])
    file = bench.get(reverse("export", args=[tern.pk])).content.decode()
    assert '"pushrods"' in file
    with scope(shop=member.shop):
        assert build_from(read_job(file), member).checking == (Topic.PUSHRODS,)


def test_a_build_of_before_is_checked_for_everything(built):
    assert built.checking == ()
    assert built.checking_kept == []


@pytest.mark.parametrize(
    ("unit", "example", "not_there"), [("mm", "as 2.44 or 2.44 wall", "as 96"), ("in", "as 96", "2.44 wall;")]
)
def test_the_box_says_what_to_type_in_the_builds_own_unit(bench, member, unit, example, not_there):
    tern, _ = begun(bench, member, checking=[Topic.VALVES], unit=unit)
    making.mockup(tern, member)
    said = words(bench.get(reverse("clay", args=[tern.pk]))).partition("Next")[2][:200]
    assert example in said
    assert not_there not in said
