"""Calibrations on the shelf, and the verdict on readings after one had ended."""

import pytest
from django.urls import reverse
from django_scopes import scope

from tests.web import words
from tests.web.asking import page, post
from web.builds.assemble import instruments_of_shop
from web.shelf.models import ShelfCalibration, ShelfInstrument

BRIDGE = {"instrument": "1", "unit": "mm", "name": "tenth bridge", "use": "bridge", "resolution_mm": "0.002"}


@pytest.fixture
def bridge(bench, member):
    bench.post(reverse("shelf"), BRIDGE | {"accuracy_mm": "0.004"})
    with scope(shop=member.shop):
        return ShelfInstrument.objects.get()


def calibrate(client, bridge, on="2025-01-10", until="2026-01-10", by_whom="the county laboratory"):
    sent = {"calibrated": str(bridge.pk), "on": on, "until": until, "by_whom": by_whom}
    return client.post(reverse("shelf"), sent)


def test_a_calibration_is_written_down_and_one_that_has_ended_is_said(bench, member, whole, bridge):
    assert "not recorded" in words(bench.get(reverse("shelf")))
    assert calibrate(bench, bridge).status_code == 302
    said = words(bench.get(reverse("shelf")))
    assert "10 Jan 2025 by the county laboratory, ended 10 Jan 2026" in said
    post(bench, whole, "deck", **{"deck-1": "5 down", "instrument": "own-1"})
    assert "Read with tenth bridge after its calibration ended on 2026-01-10" in words(
        page(bench, whole, name="verdict")
    )
    calibrate(bench, bridge, on="2026-01-11", until="2999-01-01")
    assert "after its calibration ended" not in words(page(bench, whole, name="verdict"))
    with scope(shop=member.shop):
        assert [one.noted_by for one in ShelfCalibration.objects.all()] == [member, member]
        assert len(instruments_of_shop()["own-1"].calibrated) == 2


@pytest.mark.parametrize("wrong", [{"on": "2026-02-30"}, {"until": ""}, {"on": "2027-01-01"}, {"by_whom": "x" * 61}])
def test_what_cannot_be_is_said_at_its_place_and_what_was_typed_stays(bench, member, bridge, wrong):
    answer = calibrate(bench, bridge, **({"on": "2025-01-10", "until": "2026-01-10"} | wrong))
    assert answer.status_code == 422
    assert 'class="wrong"' in answer.content.decode()
    assert 'value="2025-01-10"' in answer.content.decode() or "on" in wrong
    with scope(shop=member.shop):
        assert not ShelfCalibration.objects.exists()


def test_another_shop_calibrates_nothing_here(stranger, viewer, bridge):
    assert calibrate(stranger, bridge).status_code == 404
    assert calibrate(viewer, bridge).status_code == 403
