"""The screen at the bench: one page of verdict, a phone in one hand, one large reading."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.typing import type_in

pytestmark = pytest.mark.browser

PHONE = {"width": 390, "height": 844}
ENTRY = (
    "deck", "clay", "volumes", "tdc", "indicator", "pushrods", "stack", "cam", "mock-up", "block", "quench",
    "put-right",
)  # fmt: skip
WIDTHS = (320, 390, 768, 1280, 1920)
FIRST_FIELD = """() => {
  const all = [...document.querySelectorAll('main .bench-field, main .field input, main .field select')];
  const first = all.find((one) => one.offsetParent && !one.closest('.in-hand'));
  return first ? first.getBoundingClientRect().top + scrollY : null;
}"""


def test_nothing_is_wider_than_the_screen_on_any_width(open_page):
    page = open_page("/")
    wide = {}
    for name in (
        *ENTRY,
        "verdict",
        "assembly",
        "before-you-buy/cams",
        "put-right/explore",
        "before-you-buy",
        "sheet",
    ):
        page.goto(f"/builds/1/{name}/")
        for width in WIDTHS:
            page.set_viewport_size({"width": width, "height": 800})
            if (found := page.evaluate("document.documentElement.scrollWidth")) > width:
                wide[name, width] = found
    assert wide == {}


def test_on_a_phone_the_first_field_stands_in_the_upper_two_fifths(open_page):
    """All but pushrods, quench and put it right, where other things come first."""
    page = open_page("/", viewport=PHONE)
    found = {}
    for name in set(ENTRY) - {"quench", "put-right"}:
        page.goto(f"/builds/1/{name}/")
        found[name] = page.evaluate(FIRST_FIELD) / PHONE["height"]
    assert found.pop("pushrods") < 0.50
    assert max(found.values()) <= 0.405, found


def test_the_strip_and_the_run_are_one_line_each_and_open_on_a_tap(open_page):
    page = open_page("/builds/1/deck/", viewport=PHONE)
    expect(page.locator("#strip")).to_be_hidden()
    expect(page.locator("#run")).to_be_hidden()
    expect(page.locator(".line").first).to_contain_text("Exhaust 6")
    page.get_by_role("button", name=re.compile("3 of 14")).click()
    page.locator("#run").get_by_role("link", name="Clay").click()
    page.wait_for_url("**/clay/**")
    page.locator(".line").first.click()
    expect(page.locator("#strip-exhaust-face")).to_be_visible()


def test_the_verdict_of_six_cylinders_stands_on_one_screen_and_is_walked_by_arrow_keys(open_page):
    page = open_page("/builds/1/verdict/")
    table = page.locator("[data-matrix]")
    bottom = table.bounding_box()
    assert bottom["y"] + bottom["height"] <= 800
    expect(page.locator("#opened")).to_contain_text("Exhaust 6")
    table.locator("a").first.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowRight")
    expect(table.locator("a:focus")).to_contain_text("Exhaust 2")
    page.keyboard.press("Enter")
    expect(page.locator("#opened")).to_contain_text("Exhaust 2")
    expect(table.locator("[aria-current]")).to_contain_text("Exhaust 2")


def test_the_bench_view_takes_one_reading_after_another_and_says_what_comes_then(open_page):
    page = open_page("/builds/4/deck/")
    expect(page.locator(".bench-field").first).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("b")
    view = page.locator("#bench-view")
    expect(view).to_be_visible()
    first = view.locator("[data-bv-label]").text_content()
    page.keyboard.type("0.25 down")
    expect(view.locator(".echo")).to_contain_text("0.250 mm")
    page.keyboard.press("Enter")
    expect(view.locator("[data-bv-label]")).not_to_have_text(first)
    expect(view.locator("[data-bv-then]")).to_contain_text("Then:")
    page.keyboard.type("nonsense")
    page.keyboard.press("Enter")
    expect(view.locator("[data-bv-wrong]")).not_to_have_text("")
    # Not taken, and the hand has gone on to the next; one press brings it back.
    expect(view.locator("[data-bv-input]")).to_have_value("")
    view.get_by_role("button", name="correct it").click()
    expect(view.locator("[data-bv-input]")).to_have_value("nonsense")
    view.get_by_role("button", name="close").click()
    expect(page.locator("#deck-sheet")).to_contain_text("0.25 down")


def test_on_a_phone_the_bench_view_has_its_own_keys(open_page):
    page = open_page("/builds/4/deck/", viewport=PHONE)
    page.locator("[data-bench-view]").click()
    view = page.locator("#bench-view")
    for key in ("0", ".", "3"):
        view.locator(f"[data-bv-key='{key}']").click()
    view.locator("[data-bv-key=' down']").click()
    expect(view.locator("[data-bv-input]")).to_have_value("0.3 down")
    view.get_by_text("write it").click()
    expect(view.locator("[data-bv-then]")).to_contain_text("Then:")
    expect(page.locator("#deck-sheet")).to_contain_text("0.3 down")


def test_the_section_turns_by_its_crank_and_plays_once(open_page):
    page = open_page("/builds/1/indicator/?cylinder=1&valve=intake-1", reduced_motion="reduce")
    turn = page.locator("[data-turn]")
    turn.focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator("[data-angle]")).to_have_text("7 ATDC")
    page.locator("[data-play]").click()
    expect(page.locator("[data-angle]")).to_have_text("6 ATDC")
    assert page.locator("[data-throw]").get_attribute("transform") == "rotate(6)"


def test_how_it_is_done_and_what_the_words_mean_are_a_click_away(open_page):
    page = open_page("/builds/1/clay/")
    page.get_by_text("How this is done at the bench").click()
    expect(page.locator(".how-to")).to_contain_text("Slice, and measure the thinnest place")
    page.locator(".how-to").get_by_role("link", name="Terms").click()
    expect(page.locator("#drop")).to_contain_text("How far a shut valve could go at TDC")


def test_only_the_row_that_is_asked_for_next_says_so(open_page):
    page = open_page("/builds/1/indicator/?cylinder=2&valve=intake-1")
    page.locator("[name=sweep-0]").click()
    type_in(page, "94")
    expect(page.locator(".next-mark:visible")).to_have_count(1)
