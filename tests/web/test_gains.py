"""What each change gains, and how likely each check is to hold."""

import pytest
from django_scopes import scope

from tests.web.asking import page
from web.builds import services
from web.builds.models import Build


def test_gainss_and_likelihoods_are_shown_and_tolerances_are_taken_or_refused(bench, carded):
    answer = page(bench, carded, "", "explore")
    shown_at_first = [field.value() for field in answer.context["tolerances"]]
    assert shown_at_first == ["0.001 in", "1", "0.01", "0.002 in", "0 in"]
    gain = {words: gains for words, _, gains in answer.context["turned"]}
    columns = [check.label for check, _ in answer.context["rows"]]
    assert gain["gasket thicker"][columns.index("Exhaust 2")] == "+1"
    every = {check.label: gains for check, gains in answer.context["every_worth"]}
    assert len(every) == len(
        [check for check in answer.context["report"].checks if check.figure and check.limit.is_set]
    )
    wide = page(bench, carded, "?stack=1&gasket_mm=5&cam_deg=2&ratio=0.02&relief_mm=5&deck_mm=2", "explore")
    assert wide.context["likely"][0]["check"].label == "Exhaust 2"
    assert float(wide.context["all_hold"].removesuffix(" %")) < 10
    wrong = page(bench, carded, "?stack=1&gasket_mm=5&cam_deg=20&ratio=0.02&relief_mm=5&deck_mm=0", "explore")
    assert wrong.status_code == 422
    assert "From 0 to 6" in wrong.content.decode()


@pytest.mark.parametrize(
    ("unit", "shown_first", "per"),
    [
        ("in", ["0.001 in", "1", "0.01", "0.002 in", "0 in"], "1 thou"),
        ("mm", ["0.025 mm", "1", "0.01", "0.05 mm", "0 mm"], "0.1 mm"),
    ],
)
def test_usual_tolerances_and_units_are_round_in_the_builds_own_unit(bench, carded, member, unit, shown_first, per):
    with scope(shop=carded.shop):
        services.save_build(Build.objects.get(pk=carded.pk), member, unit=unit)
    context = page(bench, carded, "", "explore").context
    assert [field.value() for field in context["tolerances"]] == shown_first
    asked = dict(context["asked"])
    assert (asked["gasket thicker"], asked["cam advanced"], asked["rocker ratio"]) == (per, "1° crank", "0.1")


def test_both_tables_of_worths_tell_the_same_gains(bench, rods):
    context = page(bench, rods, "", "explore").context
    every = {label: gains for label, _, gains in context["by_check"]}
    for at, (label, _) in enumerate(context["tightest"]):
        assert [gains[at] for _, _, gains in context["turned"]] == every[label]
    moved = {words: gains for words, _, gains in context["turned"]}
    preload = [label for label, _ in context["tightest"]].index("Intake 1 preload")
    assert moved["pushrods longer"][preload] == "+1"
    assert moved["gasket thicker"][preload] == "−1"  # the head stands higher, the same rod pushes the plunger in less
    assert {gain for at, gain in enumerate(moved["pushrods longer"]) if at != preload} == {"·"}


def test_looser_tolerances_never_make_a_check_that_is_clear_likelier(bench, whole):
    tight = page(bench, whole, "?stack=1&gasket_mm=0&cam_deg=0&ratio=0&relief_mm=0&deck_mm=0", "explore").context
    loose = page(bench, whole, "?stack=1&gasket_mm=4&cam_deg=0&ratio=0&relief_mm=8&deck_mm=4", "explore").context
    shares = [
        {one["check"].label: float(one["share"].removesuffix(" %")) for one in context["likely"]}
        for context in (tight, loose)
    ]
    assert set(shares[0]) == set(shares[1])
    assert all(shares[1][label] <= share + 0.3 for label, share in shares[0].items())
    assert min(shares[1].values()) < min(shares[0].values())
    assert tight["draws"] == loose["draws"] == 100_000
