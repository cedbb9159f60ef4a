"""The plan: its steps, what marking one done chooses and makes stale, and striking it out."""

import pytest
from django_scopes import scope

from mockup.checks.pushrods import PUSHROD_CHECK
from mockup.checks.valves import FACE_EXHAUST_CHECK
from mockup.engine.running import Running
from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from mockup.report import Verdict
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import gasket_of, page, post
from web.builds import services
from web.builds.models import Entry, MockUp
from web.shelf.models import ShelfGasket


def test_a_step_marked_done_makes_stale_what_it_touches_and_begins_the_mock_up_that_proves_it(bench, carded, member):
    post(bench, carded, plan="1", relief_exhaust="25", gasket=gasket_of(carded).pk)
    lines = page(bench, carded).context["plan"]
    assert [line.words for line in lines] == ["gasket thick 38 thou compressed", "exhaust reliefs 25 thou deeper"]
    for line in lines:
        assert post(bench, carded, done=line.key).status_code == 302
        assert post(bench, carded, done=line.key).status_code == 302
    with scope(shop=carded.shop):
        latest = MockUp.objects.filter(build=carded).last()
        assert Entry.objects.filter(build=carded, kind="done").count() == 2
    assert latest.letter == "B"
    assert latest.core.gasket_mm == pytest.approx(thou(38))
    report = page(bench, carded).context["report"]
    assert report.job.final_gasket.name == "thick"
    exhaust = report.of_kind(FACE_EXHAUST_CHECK)[1]
    assert exhaust.figure.value == pytest.approx(thou(88 + 25 + 2))
    assert exhaust.read_again
    assert report.verdict is Verdict.UNFINISHED
    assert "Clay again: Exhaust 1, Exhaust 2" in " ".join(step.text for step in report.steps)
    again = [ClayReading(key="", mockup="B", place=Place(n, Side.EXHAUST), thickness_mm=thou(112)) for n in (1, 2)]
    making.write(carded, member, *again)
    proved = page(bench, carded).context["report"].of_kind(FACE_EXHAUST_CHECK)[1]
    assert not proved.read_again
    assert proved.figure.value == pytest.approx(thou(112))


def test_a_step_is_struck_out_undone_or_with_its_mark(bench, carded):
    post(bench, carded, plan="1", head="5")
    line = page(bench, carded).context["plan"][0]
    post(bench, carded, done=line.key)
    done = page(bench, carded).context["plan"][0]
    post(bench, carded, strike=done.done_key, reason="was not cut after all")
    assert not page(bench, carded).context["plan"][0].done
    refused = post(bench, carded, strike=line.key, reason=" ")
    assert refused.status_code == 422
    assert "Give the reason" in refused.content.decode()
    post(bench, carded, strike=line.key, reason="gasket instead")
    assert page(bench, carded).context["plan"] == []
    assert post(bench, carded, done="change-1").status_code == 404


def test_shims_put_in_as_a_step_are_written_down_as_chosen(bench, member):
    barrels = making.build(member, layout="flat", separate_barrels=True)
    making.mockup(barrels, member, shims_mm=0.5)
    post(bench, barrels, plan="1", shims="10")
    line = page(bench, barrels).context["plan"][0]
    assert line.words == "base shims 10 thou more"
    post(bench, barrels, done=line.key)
    report = page(bench, barrels).context["report"]
    # Nothing was chosen: they are ten thou more than the half millimetre of the mock-up.
    assert report.job.final_shims[0].total_mm == pytest.approx(0.5 + thou(10))
    assert [change.front_mm for change in report.job.changes if change.key == line.key] == [0.0]


def test_pushrods_that_a_thicker_gasket_asks_for_are_part_of_the_plan_and_chosen_once_done(bench, rods):
    form = page(bench, rods).context["limits_form"]
    assert form["pushrods"].value() == "0.01 in"
    with scope(shop=rods.shop):
        gasket = ShelfGasket.objects.get(name="thickest").pk
    alone = page(bench, rods, f"?find=1&gaskets={gasket}")
    assert alone.context["found"] == []
    assert "other pushrods" in words(alone)
    (plan,) = page(bench, rods, f"?find=1&gaskets={gasket}&pushrods=10").context["found"]
    assert plan.words == ["gasket thickest 60 thou compressed", "pushrods 20 thou longer"]
    assert "Try one of the new length" in plan.again[1]
    post(bench, rods, plan="1", **dict(plan.posted))
    for line in page(bench, rods).context["plan"]:
        assert post(bench, rods, done=line.key).status_code == 302
    report = page(bench, rods).context["report"]
    assert report.job.pushrods_chosen.chosen_mm == pytest.approx(7.46 * 25.4)
    check = report.of_kind(PUSHROD_CHECK)[0]
    assert check.figure.value == pytest.approx(thou(85 - 24))
    assert "Pushrods 7.460 in" in words(page(bench, rods, "", "assembly"))


def test_pushrods_whose_choice_was_struck_out_cannot_be_marked_done_and_the_page_says_why(bench, rods):
    post(bench, rods, plan="1", pushrods="10")
    (line,) = page(bench, rods).context["plan"]
    with scope(shop=rods.shop):
        services.strike(Entry.objects.get(build=rods, kind="pushrods"), rods.shop.people.first(), "another lifter")
    assert "pushrods" not in page(bench, rods).context["form"].fields
    for name in ("put-right", "stack"):
        refused = post(bench, rods, name, done=line.key)
        assert refused.status_code == 422
        assert "choose their length first" in words(refused)
    assert making.lines(rods, "done") == []


def test_a_plan_of_speed_and_rods_moves_the_running_estimate(bench, carded, member):
    assert post(bench, carded, plan="1", rpm="8000").status_code == 422
    making.write(carded, member, Running(compression_height_mm=40.0))
    assert post(bench, carded, plan="1", rpm="8000", rod="titanium").status_code == 302
    assert page(bench, carded).context["report"].job.running.rpm == 8000
