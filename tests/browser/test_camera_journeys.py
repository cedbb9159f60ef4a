"""The camera as a caliper: by keyboard and by finger, from picture to the sheet's PDF."""

import re

import pytest
from django_scopes import scopes_disabled
from playwright.sync_api import expect

from web.builds.models import Entry
from web.demo.bittern import CUT_CLAY, MARKS

WHERE = dict(zip(("p0", "p1", "p2", "p3", "e0", "e1"), (*MARKS.reference, *MARKS.ends), strict=True))
STEP = 1586 / 400


def tab_to(page, selector):
    """Press Tab until an element has the focus, as somebody without a mouse does."""
    for _ in range(80):
        if page.evaluate("selector => document.activeElement.matches(selector)", selector):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"Tab never came to {selector}")


def arrows(page, name):
    """Move the mark in hand near where it belongs, with Shift as far as that goes."""
    have = [float(one) for one in page.locator(f"input[name={name}]").input_value().split(",")]
    for at, keys in ((0, ("ArrowLeft", "ArrowRight")), (1, ("ArrowUp", "ArrowDown"))):
        off = WHERE[name][at] - have[at]
        far, near = divmod(abs(round(off / STEP)), 10)
        for key in ["Shift+" + keys[off > 0]] * far + [keys[off > 0]] * near:
            page.keyboard.press(key)


def taken():
    with scopes_disabled():
        return Entry.objects.filter(build=1, kind="clay", data__instrument="camera").order_by("-pk").first()


def test_a_picture_becomes_a_reading_with_the_keyboard_alone(open_page):
    page = open_page("/builds/1/clay/?cylinder=6&mockup=A")
    tab_to(page, ".by-picture a")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile("/clay/pictures/"))
    # The browser is told to hand over its file dialogue before the key is pressed: told at that moment it may be late.
    page.on("filechooser", lambda chooser: chooser.set_files(CUT_CLAY))
    tab_to(page, "input[type=file]")
    page.keyboard.press("Enter")
    page.wait_for_function("() => document.querySelector('input[type=file]').files.length === 1")
    tab_to(page, ".take-picture button")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile(r"/pictures/\d+/"))
    for name in WHERE:
        tab_to(page, f"[data-mark={name}]")
        arrows(page, name)
    tab_to(page, "[data-mark=reach]")
    for _ in range(30):
        page.keyboard.press("ArrowLeft")
    # The demo’s own picture was measured with such a square: its length is there already.
    expect(page.locator("[name=length]")).to_have_value("20 mm")
    expect(page.locator(".says .thick b")).to_have_text(re.compile(r"^9[5-8](\.\d)?$"))
    # An earlier answer may read the same: the button waits for the last one.
    expect(page.locator("[data-take]")).to_be_enabled()
    shown = page.locator(".says .thick b").inner_text()
    tab_to(page, "[name=valve]")
    page.keyboard.type("Exhaust 6")
    tab_to(page, "[data-take]")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile(r"/clay/\?cylinder=6"))
    expect(page.get_by_role("status").first).to_contain_text("Written: Exhaust 6")
    assert taken().data["thickness_mm"] / 0.0254 == pytest.approx(float(shown), abs=0.3)
    assert taken().data["place"]["side"] == "exhaust"


def test_the_button_waits_for_the_last_answer_not_for_an_earlier_one(open_page):
    page = open_page("/builds/1/clay/pictures/1/?cylinder=6&mockup=A")
    held = []

    def hold(route):
        held.append(route)

    page.route("**/pictures/1/**", hold)
    take = page.locator("[data-take]")
    page.locator("[data-mark=reach]").press("ArrowRight")
    expect(take).to_be_disabled()
    with page.expect_request("**/pictures/1/**"):
        pass
    # A second look is waiting for the hand to rest when the first answer comes.
    page.evaluate("document.querySelector('#measure').dispatchEvent(new Event('live:asks', { bubbles: true }))")
    page.evaluate("addEventListener('htmx:after:swap', () => { window.swapped = true })")
    held.pop().continue_()
    page.wait_for_function("() => window.swapped")
    expect(take).to_be_disabled()
    page.unroute("**/pictures/1/**")
    page.locator("[data-mark=reach]").press("ArrowRight")
    expect(take).to_be_enabled()


def test_marks_are_dragged_by_finger_on_a_phone_and_what_is_under_it_is_shown_large(open_page):
    page = open_page("/builds/1/clay/pictures/", viewport={"width": 390, "height": 800}, has_touch=True)
    page.locator("input[type=file]").set_input_files(CUT_CLAY)
    page.get_by_role("button", name="Add and measure it").click()
    grip = page.locator("[data-mark=p0] .grip")
    box = page.locator(".marks").bounding_box()
    scale = box["width"] / 1586
    start = grip.bounding_box()
    middle = (start["x"] + start["width"] / 2, start["y"] + start["height"] / 2)
    assert start["width"] >= 40, "a finger hits it"
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(box["x"] + WHERE["p0"][0] * scale, box["y"] + WHERE["p0"][1] * scale, steps=4)
    expect(page.locator(".loupe")).to_be_visible()
    page.mouse.up()
    expect(page.locator(".loupe")).to_be_hidden()
    found = [float(one) for one in page.locator("input[name=p0]").input_value().split(",")]
    assert found == pytest.approx(WHERE["p0"], abs=12)
    assert page.evaluate("document.documentElement.scrollWidth") == 390


def test_what_cannot_be_measured_says_why_at_once_and_two_edges_bring_other_marks(open_page):
    page = open_page("/builds/1/clay/pictures/1/")
    expect(page.locator(".says .thick b")).to_have_text(re.compile(r"^9[5-8](\.\d)?$"))
    page.locator("[name=length]").fill("")
    page.locator("[name=length]").press("Enter")
    expect(page.locator(".says")).to_contain_text("without it there is no scale")
    page.locator("[name=length]").fill("20 mm")
    page.get_by_label("a block or feeler, two edges").check()
    expect(page.locator("[data-mark=p2]")).to_have_count(0)
    expect(page.locator("[data-mark=p1]")).to_have_count(1)
    expect(page.locator("[name=length]")).to_have_value("20 mm")


def test_a_picture_on_the_sheet_stands_in_its_pdf(open_page):
    page = open_page("/builds/1/pictures/")
    with_it = page.request.get("/builds/1/sheet.pdf").body()
    page.get_by_label("on the sheet").uncheck()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_label("on the sheet")).not_to_be_checked()
    without = page.request.get("/builds/1/sheet.pdf").body()
    assert b"/Subtype /Image" in with_it
    assert b"/Subtype /Image" not in without


def test_the_bar_of_the_card_is_as_long_as_it_says(open_page):
    page = open_page("/card/")
    bar = page.locator(".card-drawing .inked").first.bounding_box()
    assert bar["width"] == pytest.approx(100 * 96 / 25.4, abs=0.6)
    square = page.locator(".card-drawing .inked").nth(3).bounding_box()
    assert (square["width"], square["height"]) == (pytest.approx(20 * 96 / 25.4, abs=0.6),) * 2
