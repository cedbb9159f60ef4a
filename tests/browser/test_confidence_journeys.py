"""The program says what it does not know: its sentences of confidence, in a browser."""

import pytest
from playwright.sync_api import expect

from tests.browser.typing import type_in

pytestmark = pytest.mark.browser


def check(page, label):
    """A check on the verdict page, opened from its cell of the table."""
    page.locator(f"[data-matrix] a[href^='?check={label}#']").click()
    found = page.locator(f"#opened #check-{label}")
    expect(found).to_be_visible()
    return found


def with_clay(page, typed):
    """The third intake on the verdict page, its clay typed before."""
    page.goto("/builds/1/clay/?cylinder=3")
    page.locator("[name=clay-intake-1-face-0]").focus()
    type_in(page, typed)
    page.goto("/builds/1/verdict/")
    return check(page, "intake-3")


def test_one_reading_is_a_figure_with_the_u_of_not_knowing_the_rest_and_what_it_is_made_of(open_page):
    page = open_page("/builds/1/indicator/?cylinder=3&valve=intake-1")
    page.locator("[name=sweep-10]").focus()
    type_in(page, "110")
    expect(page.locator(".closest")).to_contain_text("Lobe from its card")
    page.goto("/builds/1/verdict/")
    found = check(page, "intake-3")
    expect(found.locator(".state").first).to_have_text("clear")
    expect(found.locator(".made-of")).to_contain_text("U ")
    expect(found.locator(".made-of")).to_contain_text("lobe")
    expect(found.locator(".made-of")).to_contain_text("Half of it would take")


def test_a_reading_far_from_its_sisters_is_in_question_until_it_is_struck_out(open_page):
    page = open_page("/builds/1/indicator/?cylinder=3&valve=intake-1")
    page.locator("[name=sweep-10]").focus()
    type_in(page, "430")
    expect(page.locator("#strip-intake-face")).to_contain_text("in question")
    page.goto("/builds/1/verdict/")
    found = check(page, "intake-3")
    expect(found.locator(".state").first).to_have_text("in question")
    expect(page.get_by_text("430.4, its sisters").first).to_be_visible()


def test_the_smallest_found_by_turning_is_a_reading_and_the_drop_with_a_card_an_estimate(open_page):
    page = open_page("/builds/1/indicator/?cylinder=4&valve=intake-1")
    page.locator("[name=sweep-turning]").focus()
    type_in(page, "60")
    page.goto("/builds/1/verdict/")
    expect(check(page, "intake-4").locator(".state").first).to_have_text("short")
    expect(check(page, "intake-4")).to_contain_text("found by turning")
    page.goto("/builds/1/indicator/?cylinder=5&valve=intake-1")
    page.locator("[name=sweep-drop]").focus()
    type_in(page, "600")
    expect(page.locator(".closest")).to_contain_text("By the drop and the lobe")
    page.goto("/builds/1/verdict/")
    expect(check(page, "intake-5").locator(".state").first).to_have_text("not measured")
    expect(check(page, "intake-5")).to_contain_text("an estimate, not proof")


def test_contact_is_short_with_its_caution(open_page):
    found = with_clay(open_page("/"), "0")
    expect(found.locator(".state").first).to_have_text("short")
    expect(found).to_contain_text("metal on metal")


def test_clay_not_touched_in_a_flattering_mock_up_says_nothing(open_page):
    page = open_page("/builds/1/mock-up/")
    page.locator("[name=lifters]").select_option("unblocked")
    page.get_by_role("button", name="Save as mock-up C").click()
    expect(page.locator(".mockup-line").first).to_contain_text("mock-up C", ignore_case=True)
    found = with_clay(page, "over 50")
    expect(found.locator(".state").first).to_have_text("not measured")
    expect(found).to_contain_text("so that proves nothing")


def test_a_what_if_says_of_how_many_and_what_is_not_known(open_page):
    page = open_page("/builds/1/put-right/")
    page.get_by_label("Off the head", exact=True).fill("2")
    expect(page.locator("#tried")).to_contain_text("checks would not be clear")
    # A build without a single reading: nothing on it may sound like clear.
    page.goto("/builds/4/put-right/")
    page.get_by_label("Intake deeper", exact=True).fill("1")
    expect(page.locator("#tried")).to_contain_text("Not known: ")


def test_signing_asks_for_each_line_that_is_still_open(open_page):
    page = open_page("/builds/1/verdict/", allow=["422"])
    close = page.locator("#check-exhaust-6")
    close.get_by_text("Sign it off although it is not clear").click()
    close.locator("[name=reason]").fill("read twice")
    close.get_by_role("button", name="Sign as Ottoline").click()
    expect(page.locator(".verdict-words")).to_contain_text("clear or signed off by name")
    page.goto("/builds/1/assembly/")
    page.locator("[name=note]").fill("for Sunday")
    page.get_by_role("button", name="Sign as Ottoline").click()
    expect(page.locator(".sign-build")).to_contain_text("Still open: Clay cleaned off crowns")
    expect(page.locator("[name=note]")).to_have_value("for Sunday")
    for box in page.locator("[name=open]").all():
        box.check()
    page.get_by_role("button", name="Sign as Ottoline").click()
    expect(page.locator(".drawing .signed").first).to_contain_text("for Sunday")
    expect(page.locator(".drawing .signed").first).to_contain_text("answered for: Clay cleaned off crowns")
