"""Somebody with a head, clay and a caliper: to a judged figure and a build of their own."""

import itertools

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


def test_one_reading_is_judged_on_one_page_with_few_keys_and_becomes_a_build(open_page):
    page = open_page()
    page.get_by_role("link", name="Quick check").click()
    expect(page.get_by_label("It read")).to_be_focused()
    keys = 0

    def types(text):
        nonlocal keys
        keys += len(text)
        page.keyboard.type(text)

    # The first field is in hand already: the reading, a word for the gasket, and there it stands.
    types("96")
    expect(page.locator("#answer .state")).to_have_text("not measured")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    keys += 2
    types("the s")
    expect(page.get_by_label("Gasket when it was read")).to_have_value("the same kind, used")
    expect(page.locator("#answer .sum")).to_contain_text("96 ±")
    # What nobody said is asked for: a letter each says it.
    expect(page.locator("#answer .state")).to_have_text("not measured")
    for label, letter in (("Lifters", "s"), ("Springs", "l"), ("Crank turned", "t")):
        page.get_by_label(label).focus()
        keys += 2
        types(letter)
    expect(page.locator("#answer .state")).to_have_text("clear")
    assert keys <= 30
    assert page.locator(".quick .field:visible").count() <= 7

    # The address holds what was typed: opened again, it says the same.
    page.goto(page.url)
    expect(page.locator("#answer .state")).to_have_text("clear")

    page.get_by_role("link", name="Keep it").click()
    page.get_by_label("Name").fill("Teal")
    page.get_by_label("Cylinders").fill("4")
    page.get_by_role("button", name="Begin, and keep the reading").click()
    expect(page.locator(".strip")).to_contain_text("96 ±")


def test_a_thickness_is_asked_for_only_where_the_gasket_has_one_to_say(open_page):
    page = open_page("/quick/?read_mm=110")
    stood, final = page.get_by_label("That gasket"), page.get_by_label("The one it will run")
    expect(stood).to_be_hidden()
    page.get_by_label("Gasket when it was read").select_option(label="none")
    expect(stood).to_be_hidden()
    expect(page.locator("#answer")).to_contain_text("Enter the thickness")
    final.fill("41")
    expect(page.locator("#answer .sum")).to_contain_text("151 ±")
    page.get_by_label("Gasket when it was read").select_option(label="another one")
    stood.fill("60")
    expect(page.locator("#answer .sum")).to_contain_text("91 ±")
    page.get_by_text("How it was read").click()
    page.get_by_label("Clay").select_option(label="bouncing putty")
    expect(page.locator("#answer")).to_contain_text("says nothing")


def test_what_is_still_to_be_typed_is_said_until_there_is_an_answer(open_page):
    page = open_page("/quick/")
    page.get_by_role("link", name="Deck and quench").click()
    page.get_by_label("Deck").fill("11 down")
    expect(page.locator("#answer")).to_contain_text("Still to type: Gasket, compressed.")
    page.get_by_label("Gasket, compressed").fill("41")
    expect(page.locator(".quick-figure")).to_contain_text("52 ±")
    page.get_by_label("Deck").fill("")
    expect(page.locator("#answer")).to_contain_text("Still to type: Deck.")


def test_a_usual_layout_fills_the_form_with_one_click_and_leaves_what_was_typed(open_page):
    page = open_page("/builds/new/")
    page.get_by_label("Name").fill("Teal")
    page.get_by_role("button", name="twin-cam four, 16 valves").click()
    expect(page.get_by_label("Cylinders")).to_have_value("4")
    expect(page.get_by_label("Valves a cylinder").first).to_have_value("2")
    page.get_by_role("button", name="vee eight").press("Enter")
    expect(page.get_by_label("Layout")).to_have_value("vee")
    expect(page.get_by_label("Cylinders")).to_have_value("8")
    expect(page.get_by_label("Valves a cylinder").first).to_have_value("1")
    expect(page.get_by_label("Name")).to_have_value("Teal")


@pytest.mark.parametrize(
    ("address", "width"), [("/quick/", 390), ("/quick/", 320), ("/builds/1/put-right/explore/", 390)]
)
def test_on_a_phone_no_tab_lies_on_another(open_page, address, width):
    page = open_page(address, viewport={"width": width, "height": 844})
    boxes = [tab.bounding_box() for tab in page.locator(".tabs a").all()]
    assert len(boxes) > 2
    for before, after in itertools.pairwise(boxes):
        assert before["x"] + before["width"] <= after["x"], "side by side"
    words = page.locator(".tabs a").evaluate_all("all => all.map(one => one.scrollWidth <= one.clientWidth + 1)")
    assert all(words), "and each as wide as its words"


def test_the_words_of_a_select_end_before_its_arrow(open_page):
    page = open_page("/builds/1/mock-up/", viewport={"width": 390, "height": 844})
    paddings = page.locator("select.form-select:visible").evaluate_all(
        "all => all.map(one => parseFloat(getComputedStyle(one).paddingRight))"
    )
    assert len(paddings) > 5
    assert min(paddings) >= 22
