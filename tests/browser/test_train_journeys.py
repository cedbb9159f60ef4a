"""A journey through cam, pushrods and mock-up, typed at the keyboard in a real browser."""

import pytest
from playwright.sync_api import expect

from tests.browser.typing import type_in

pytestmark = pytest.mark.browser


def test_a_lobe_is_pasted_and_degreed(open_page):
    page = open_page("/builds/1/cam/")
    expect(page.locator("path.lift.estimate")).to_have_count(2)
    page.locator("summary", has_text="A measured lobe").click()
    lifts = {angle: 7.6 * max(1 - abs(angle / 128) ** 2.4, 0.0) ** 3 for angle in range(-130, 131, 10)}
    rows = "\n".join(f"{angle};{lift:.3f}".replace(".", ",") for angle, lift in lifts.items())
    page.locator("[name=table]").fill(f"angle;lift (mm)\n{rows}")
    page.get_by_role("button", name="Save the table").click()
    expect(page.locator("path.lift.estimate")).to_have_count(1)
    expect(page.locator(".drawing")).to_contain_text("lobe measured")
    form = page.locator("#degree-form")
    form.locator("[name=side]").select_option("exhaust")
    for name, typed in (("lift_mm", "200"), ("opening_deg", "170 BTDC"), ("closing_deg", "52 BTDC")):
        form.locator(f"[name={name}]").fill(typed)
    page.keyboard.press("Enter")
    expect(page.locator(".readings")).to_contain_text("170 BTDC, 52 BTDC")
    expect(page.locator(".drawing")).to_contain_text("between lifts")


def test_angles_without_their_letters_are_asked_about_where_they_stand(open_page):
    page = open_page("/builds/1/cam/")
    form = page.locator("#degree-form")
    form.locator("[name=lift_mm]").fill("200")
    form.locator("[name=opening_deg]").fill("150")
    expect(form.locator(".echo").nth(3)).to_contain_text("Before or after")
    form.locator("[name=closing_deg]").fill("74 BTDC")
    page.keyboard.press("Enter")
    expect(form.locator(".line-mark")).to_contain_text("Before or after")
    form.get_by_role("button", name="correct it").click()
    expect(page.locator("#degree-form [name=closing_deg]")).to_have_value("74 BTDC")


def test_pushrods_are_tried_with_the_checker_and_offered(open_page):
    page = open_page("/builds/1/pushrods/?cylinder=2")
    expect(page.locator(".readings")).to_contain_text("Turn until 5 is at overlap TDC")
    page.locator("[name=closed]").fill("9.300")
    page.locator("[name=rod-intake-1]").focus()
    type_in(page, "11.2 turns", "11.4 turns")
    expect(page.locator(".drawing")).to_contain_text("Exhaust 2")
    expect(page.locator(".drawing .option b").first).to_have_text("9.850")
    expect(page.locator("[name=closed]")).to_have_value("9.300")


def test_the_next_mock_up_starts_from_the_last_and_is_gone_through(open_page):
    page = open_page("/builds/1/mock-up/")
    page.locator("[name=springs]").select_option("running")
    page.get_by_role("button", name="Save as mock-up C").click()
    expect(page.locator(".mockup-line").first).to_contain_text("running springs")
    page.get_by_label("Running springs: proper compressor").check()
    page.get_by_role("button", name="List completed").click()
    expect(page.get_by_label("Running springs: proper compressor")).to_be_checked()
    expect(page.locator(".turning")).to_contain_text("Ottoline")


def test_an_indicator_is_read_by_keyboard_and_the_next_reading_followed_to_enough(open_page):
    page = open_page("/builds/1/indicator/?cylinder=2&valve=intake-1")
    there = [94, 91, 88.5, 87, 85.5, 85, 85, 85.5, 86.5, 88.5, 90.5, 93.5, 97, 101, 105.5, 110.5]  # by degree ATDC
    page.locator("[name=sweep-0]").focus()
    type_in(page, str(there[0]))
    for angle in (10, 15):
        page.locator(f"[name=sweep-{angle}]").focus()
        type_in(page, str(there[angle]))
    closest, asked = page.locator(".closest"), []
    while "Enough" not in closest.inner_text() and len(asked) < 8:
        field = page.locator("tr.is-next input.bench-field")
        if not field.evaluate("(field) => field === document.activeElement"):
            page.keyboard.press("Enter")  # from the field that is empty again to the one that is asked for now
        expect(field).to_be_focused()
        asked.append(int(field.get_attribute("name").removeprefix("sweep-")))
        saved = page.locator("tr.is-next .saved").count()
        type_in(page, str(there[asked[-1]]))
        row = page.locator("tr", has=page.locator(f"[name=sweep-{asked[-1]}]"))
        expect(row.locator(".saved")).to_have_count(saved + 1)
    assert asked
    expect(closest).to_contain_text("Enough")
    expect(closest).to_contain_text("at 5.6 ATDC")
    page.locator("[name=sweep-other]").fill("6 84")
    expect(page.locator("tr", has_text="other angle").locator(".echo")).to_contain_text("Before or after")


def test_turning_the_drawing_asks_the_server_nothing(open_page):
    page = open_page("/builds/1/indicator/?cylinder=1")
    gap, crown = page.locator("[data-gap=intake]"), page.locator("[data-crown]")
    here, asked = page.locator("[data-here]"), []
    before = gap.text_content(), crown.get_attribute("transform"), here.get_attribute("x1")
    page.on("request", lambda request: asked.append(request.url))
    page.locator("[data-turn]").focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    expect(page.locator("[data-angle]")).to_have_text("10 ATDC")
    after = gap.text_content(), crown.get_attribute("transform"), here.get_attribute("x1")
    assert all(one != other for one, other in zip(before, after, strict=True))
    assert asked == []


def test_clay_is_typed_with_its_place_and_clay_that_was_not_touched(open_page):
    page = open_page("/builds/1/clay/?cylinder=3")
    page.locator("[name=clay-intake-1-face-0]").focus()
    page.keyboard.type("over 200")
    expect(page.locator(".slots .echo").first).to_contain_text("more than 0.2000")
    page.keyboard.press("Enter")
    expect(page.locator("[name=clay-intake-1-face-0]")).to_be_focused()
    type_in(page, "96 wall")
    expect(page.locator(".slots").first).to_contain_text("96 wall")
    page.locator("[name=head-plug]").focus()
    type_in(page, "90")
    expect(page.locator("tr", has_text="Plug")).to_contain_text("90")
