"""A journey through cam, pushrods and mock-up, typed at the keyboard in a real browser."""

import pytest
from playwright.sync_api import expect

from tests.browser.typing import type_in

pytestmark = pytest.mark.browser


def test_a_lobe_is_pasted_and_degreed(open_page):
    page = open_page("/builds/1/cam/")
    expect(page.locator("path.lift.estimate")).to_have_count(2)
    page.locator("summary", has_text="A lobe measured").click()
    lifts = {angle: 7.6 * max(1 - abs(angle / 128) ** 2.4, 0.0) ** 3 for angle in range(-130, 131, 10)}
    rows = "\n".join(f"{angle};{lift:.3f}".replace(".", ",") for angle, lift in lifts.items())
    page.locator("[name=table]").fill(f"angle;lift (mm)\n{rows}")
    page.get_by_role("button", name="Take the table").click()
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
    page = open_page("/builds/1/cam/", allow=["422"])
    form = page.locator("#degree-form")
    form.locator("[name=lift_mm]").fill("200")
    form.locator("[name=opening_deg]").fill("150")
    expect(form.locator(".echo").nth(3)).to_contain_text("Before or after")
    form.locator("[name=closing_deg]").fill("74 BTDC")
    page.keyboard.press("Enter")
    expect(page.locator("#degree-form .wrong").first).to_contain_text("Before or after")
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
    page.get_by_role("button", name="Write down mock-up B").click()
    expect(page.locator(".mockup-line").first).to_contain_text("running springs")
    page.get_by_label("Running springs: proper compressor").check()
    page.get_by_role("button", name="Gone through").click()
    expect(page.get_by_label("Running springs: proper compressor")).to_be_checked()
    expect(page.locator(".turning")).to_contain_text("Ottoline")
