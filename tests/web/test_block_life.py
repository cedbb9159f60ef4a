"""The life of a block: its builds, what was cut, what is left before a limit."""

import pytest
from django_scopes import scope

from mockup.base.faults import FaultsError
from mockup.changes.change import Change
from mockup.changes.cuts import DECK_CUT
from mockup.engine.block_limit import BlockLimit
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import page, post
from web.builds import services
from web.builds.models import Build


def cut(built, member, count, *, done=True):
    change = services.write(built, Change(key="", kind=DECK_CUT, front_mm=thou(count), rear_mm=0.0), member)
    if done:
        services.mark_done(built, change, member)


@pytest.fixture
def line(member, whole):
    """Three builds of one block: 5 thou cut in the first, 3 more in the second."""
    with scope(shop=member.shop):
        cut(whole, member, 5)
        second = services.copy_build(whole, member, "Bittern again")
        cut(second, member, 3)
        third = services.copy_build(second, member, "Bittern once more")
    return [whole, second, third]


def test_the_builds_of_a_block_stand_in_a_line_with_what_was_cut_so_far(bench, member, line, built):
    lives = [page(bench, one, name="block").context["life"] for one in line]
    for life in lives:
        assert [one["build"].pk for one in life["line"]] == [one.pk for one in line]
        assert [round(one["cut"] / 0.0254) for one in life["line"]] == [5, 8, 8]
    assert [round(life["cut"] / 0.0254) for life in lives] == [5, 8, 8]
    assert len(page(bench, built, name="block").context["life"]["line"]) == 1
    assert "This is the first build of its block" in words(page(bench, built, name="block"))


def test_a_limit_that_is_typed_says_what_is_left_and_goes_along_with_the_block(bench, member, line):
    sent = post(bench, line[2], "block", **{"block-limit": "1", "deck_cut_mm": "20", "said": "the maker’s manual"})
    assert sent.status_code == 302
    said = words(page(bench, line[2], name="block"))
    assert "0.0080 in · 0.203 mm cut off the deck so far" in said
    assert "of 0.0200 in · 0.508 mm in all (the maker’s manual)" in said
    assert "0.0120 in · 0.305 mm is left" in said
    with scope(shop=member.shop):
        cut(line[2], member, 15, done=False)
        fourth = services.copy_build(line[2], member, "Bittern the fourth")
        cut(fourth, member, 13)
    assert "−0.0030 in · −0.076 mm once what is planned is cut" in words(page(bench, line[2], name="block"))
    assert "more than it may" in words(page(bench, fourth, name="block"))
    assert "limit of the block" in words(page(bench, line[2], name="history"))


@pytest.mark.parametrize("typed", ["", "0", "ten", "9000"])
def test_a_limit_that_cannot_be_is_said_and_nothing_is_written(bench, member, whole, typed):
    answer = post(bench, whole, "block", **{"block-limit": "1", "deck_cut_mm": typed})
    assert answer.status_code == 422
    with scope(shop=member.shop):
        assert not making.lines(whole, "block-limit")


def test_a_block_outlives_its_first_build(member, line):
    with scope(shop=member.shop):
        Build.objects.filter(pk=line[0].pk).update(name="gone")
        assert Build.objects.get(pk=line[2].pk).first_of_block_id == line[0].pk


def test_the_core_refuses_what_is_no_limit():
    with pytest.raises(FaultsError):
        BlockLimit(deck_cut_mm=11.0)
