"""What is worth what, and how likely each check is to hold."""

from tests.web.asking import page


def test_worths_and_likelihoods_are_shown_and_tolerances_are_taken_or_refused(bench, carded):
    answer = page(bench, carded, "", "sensitivity")
    shown_at_first = [field.value() for field in answer.context["form"]]
    assert shown_at_first == ["0.001 in", "1", "0.01", "0.002 in", "0 in"]
    worth = {words: gains for words, _, gains in answer.context["turned"]}
    columns = [check.label for check, _ in answer.context["rows"]]
    assert worth["gasket thicker"][columns.index("Exhaust 2")] == "+1"
    every = {check.label: gains for check, gains in answer.context["every_worth"]}
    assert len(every) == len(
        [check for check in answer.context["report"].checks if check.figure and check.limit.is_set]
    )
    wide = page(bench, carded, "?stack=1&gasket_mm=5&cam_deg=2&ratio=0.02&relief_mm=5&deck_mm=2", "sensitivity")
    assert wide.context["likely"][0]["check"].label == "Exhaust 2"
    assert float(wide.context["all_hold"].removesuffix(" %")) < 10
    wrong = page(bench, carded, "?stack=1&gasket_mm=5&cam_deg=20&ratio=0.02&relief_mm=5&deck_mm=0", "sensitivity")
    assert wrong.status_code == 422
    assert "From 0 to 6" in wrong.content.decode()
