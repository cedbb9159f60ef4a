"""The shop's own engines and limits: shelved from a build, taken for another."""

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.limits.limit_set import LimitName
from tests import making_rows as making
from tests.making import thou
from tests.web import words
from tests.web.asking import page, post
from web.builds.models import Build
from web.shelf.models import ShelfEngine, ShelfLimits


def shelved_engine(bench, built, name="small inline"):
    return post(bench, built, "block", shelve="1", engine_name=name)


def test_a_build_is_begun_from_an_engine_of_the_shelf(bench, member, built):
    assert shelved_engine(bench, built).status_code == 302
    with scope(shop=member.shop):
        row = ShelfEngine.objects.get()
    assert row.core() == built.engine
    assert "small inline" in words(bench.get(reverse("shelf")))
    new = bench.get(reverse("new-build"), {"engine": row.pk})
    assert "As small inline , from the shelf." in words(new)
    form = new.context["form"]
    shown = {field.html_name: field.value() for field in form if field.value() not in (None, [])}
    answer = bench.post(reverse("new-build"), shown | {"name": "Grebe"})
    assert answer.status_code == 302
    with scope(shop=member.shop):
        assert Build.objects.get(name="Grebe").engine == built.engine


@pytest.mark.parametrize("name", ["", " ", "x" * 61])
def test_an_engine_without_a_name_of_its_own_stays_off_and_says_so(bench, member, built, name):
    answer = shelved_engine(bench, built, name)
    assert answer.status_code == 422
    assert "Give it a name of 1 to 60 characters" in words(answer)
    shelved_engine(bench, built)
    assert "is already on the shelf" in words(shelved_engine(bench, built))
    with scope(shop=member.shop):
        assert ShelfEngine.objects.count() == 1


def limits(bench, built):
    sheet = bench.get(reverse("verdict", args=[built.pk])).context["report"].job.limits
    return {str(name): value for name, value in sheet.effective.items()}


def test_a_builds_limits_become_a_sheet_that_another_build_is_judged_by(bench, member, whole, built):
    change = {"change": "1", "limit": "face_intake", "length": "90", "reason": "our own"}
    assert post(bench, whole, "verdict", **change).status_code == 302
    assert post(bench, whole, "verdict", **(change | {"limit": "quench_low", "length": ""})).status_code == 302
    wanted = limits(bench, whole)
    assert wanted["face_intake"] == pytest.approx(thou(90))
    assert "quench_low" not in wanted
    assert post(bench, whole, "verdict", **{"shelve-limits": "1", "name": "Saltmarsh tight"}).status_code == 302
    with scope(shop=member.shop):
        key = f"own-{ShelfLimits.objects.get().pk}"
    # What was changed for the other build and the sheet leaves alone is as its base has it.
    post(bench, built, "verdict", **(change | {"limit": "face_exhaust", "length": "130"}))
    assert post(bench, built, "verdict", choose="1", limits=key).status_code == 302
    assert limits(bench, built) == wanted
    said = words(page(bench, built, name="verdict"))
    assert "the shop’s limits Saltmarsh tight" in said
    shelf = words(bench.get(reverse("shelf")))
    assert "Saltmarsh tight" in shelf
    assert f"{LimitName.named('face_intake').label} 90 thou" in shelf


def test_what_is_taken_off_is_offered_no_more_and_judges_as_before(bench, member, whole):
    post(bench, whole, "verdict", change="1", limit="face_intake", length="90", reason="our own")
    post(bench, whole, "verdict", **{"shelve-limits": "1", "name": "tight"})
    with scope(shop=member.shop):
        row = ShelfLimits.objects.get()
    bench.post(reverse("shelf"), {"off": f"limits-{row.pk}"})
    assert post(bench, whole, "verdict", choose="1", limits=f"own-{row.pk}").status_code == 422
    assert limits(bench, whole)["face_intake"] == pytest.approx(thou(90))


def test_the_shelf_is_searched(bench, member, built):
    shelved_engine(bench, built, "small inline")
    shelved_engine(bench, built, "boat engine")
    said = words(bench.get(reverse("shelf"), {"q": "BOAT"}))
    assert "boat engine" in said
    assert "small inline" not in said


def test_another_shop_sees_and_takes_none_of_it(bench, stranger, viewer, member, whole):
    shelved_engine(bench, whole)
    post(bench, whole, "verdict", **{"shelve-limits": "1", "name": "tight"})
    with scope(shop=member.shop):
        engine, sheet = ShelfEngine.objects.get(), ShelfLimits.objects.get()
    assert stranger.get(reverse("new-build"), {"engine": engine.pk}).status_code == 404
    assert bench.get(reverse("new-build"), {"engine": "x"}).status_code == 404
    assert "small inline" not in words(stranger.get(reverse("shelf")))
    theirs = making.build(making.person("other", shop_name="Elsewhere"))
    other = type(bench)()
    other.force_login(making.person("third", shop_name="Elsewhere"))
    assert post(stranger, theirs, "verdict", choose="1", limits=f"own-{sheet.pk}").status_code in (404, 422)
    assert shelved_engine(viewer, whole, "mine").status_code == 403
