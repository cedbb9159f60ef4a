"""Before anything is bought: drop, cams compared, one taken; the live what-if; the map."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.typing import type_in

pytestmark = pytest.mark.browser

AGAIN = ("104", "97", "100", "114", "140")


def drop_of_a_third_cylinder(page):
    page.goto("/builds/1/indicator/?cylinder=3&valve=intake-1")
    page.locator("[name=sweep-drop]").focus()
    type_in(page, "188")
    expect(page.locator(".drops")).to_contain_text("Intake 3")
    page.locator(".drawing").get_by_role("link", name="which cam").click()
    expect(page.locator(".readings")).to_contain_text("The drop of 5 of 12 valves is known.")


def three_cams_compared(page):
    for name in ("Sprint 36", "Twin 40, measured"):
        page.locator(".cam-boxes label").filter(has_text=name).locator("input").uncheck()
    expect(page.locator(".cam-line")).to_have_count(3)
    expect(page.locator(".cam-line").first).to_contain_text("Tidewater 28")
    expect(page.locator(".cam-line").first).to_contain_text(
        re.compile(r"Clear[\s\S]*predicted \d+\.\d ±\d+[\s\S]*thou")
    )
    expect(page.locator(".cam-line").first).to_contain_text("From its card, to be measured")
    expect(page.locator(".overlaid .ranked")).to_have_count(6)
    page.get_by_label("Show").select_option("clear")
    expect(page.locator(".cam-line")).to_have_count(1)
    expect(page.locator(".drawing")).to_contain_text("2 more not shown")


def one_taken_and_put_in(page):
    page.get_by_role("button", name="Make it the plan: Tidewater 28").click()
    expect(page.locator(".plan-steps")).to_contain_text("Another cam: Tidewater 28")
    expect(page.locator(".plan-steps")).to_contain_text("pushrod length (base circles differ)")
    page.get_by_role("button", name="Mark it done").click()
    expect(page.locator("#strip-intake-face")).to_contain_text("another cam since it was read")
    page.goto("/builds/1/cam/")
    expect(page.locator(".readings .number")).to_have_count(0)


def measured_again(page):
    page.goto("/builds/1/indicator/?cylinder=1&valve=intake-1")
    for at, text in zip((0, 5, 10, 15, 20), AGAIN, strict=True):
        page.locator(f"[name=sweep-{at}]").focus()
        type_in(page, text)
    page.goto("/builds/1/before-you-buy/cams/")
    row = page.get_by_role("row").filter(has_text="Intake 1")
    expect(row).to_contain_text(re.compile(r"predicted \d+\.\d ±\d+"))
    expect(row).to_contain_text(re.compile(r"measured \d+\.\d ±\d"))


def test_the_drop_is_read_cams_are_compared_one_is_taken_and_foretold_stands_beside_measured(open_page):
    page = open_page("/builds/1/")
    drop_of_a_third_cylinder(page)
    three_cams_compared(page)
    one_taken_and_put_in(page)
    measured_again(page)


def test_a_cam_is_put_on_the_shelf_by_its_card_and_tried_at_once(open_page):
    page = open_page("/shelf/cams/", allow=["422"])
    page.get_by_label("Cam", exact=True).fill("Marsh 30")
    page.locator("[name=intake_lift]").fill("300")
    page.get_by_role("button", name="Add it to the shelf").click()
    expect(page.locator(".wrong").first).to_contain_text("One to three durations")
    expect(page.get_by_label("Cam", exact=True)).to_have_value("Marsh 30")
    for name, text in {
        "intake_duration_1": "264", "intake_at_1": "20", "intake_duration_2": "226", "intake_at_2": "50",
        "lsa_deg": "110", "icl_deg": "106",
    }.items():  # fmt: skip
        page.locator(f"[name={name}]").fill(text)
    page.get_by_role("button", name="Add it to the shelf").click()
    expect(page.locator("table.cams")).to_contain_text("Marsh 30")
    page.goto("/builds/1/before-you-buy/cams/")
    expect(page.locator(".cam-line").filter(has_text="Marsh 30")).to_contain_text("predicted")


def test_the_what_if_answers_while_it_is_typed_and_slides_by_the_keyboard(open_page):
    page = open_page("/builds/2/put-right/")
    expect(page.locator("#tried")).to_contain_text("Now")
    expect(page.get_by_role("button", name="Show the effect")).to_have_count(0)
    cam = page.locator("#what-if [name=cam]")
    cam.focus()
    page.keyboard.type("5")
    expect(page.locator("#tried h3").first).to_contain_text("cam advanced 5°")
    expect(cam).to_be_focused()
    # What comes next overtakes what is still on its way: the last one stands.
    page.keyboard.type("x")
    expect(page.locator("#wrong-cam")).to_contain_text("number")
    expect(page.locator("#tried")).to_contain_text("Now")
    page.keyboard.press("Backspace")
    expect(page.locator("#wrong-cam")).to_have_text("")
    slider = page.get_by_label("Cam, crank degrees, slide")
    expect(slider).to_have_value("5")
    slider.focus()
    page.keyboard.press("ArrowRight")
    expect(cam).to_have_value("5.5")
    expect(page.locator("#tried h3").first).to_contain_text("cam advanced 5.5°")
    page.get_by_role("button", name="Gasket: the next").click()
    expect(page.locator("#tried h3").first).to_contain_text("gasket")


def test_the_map_is_read_and_taken_by_keys_alone(open_page):
    page = open_page("/builds/2/put-right/explore/")
    page.locator(".room-map").focus()
    for _ in range(6):
        page.keyboard.press("ArrowRight")
    expect(page.locator("[data-says]")).to_contain_text(re.compile(r"\+\d\.\d°, .*margin"))
    expect(page.locator("[data-point]")).to_be_visible()
    page.keyboard.press("Shift+ArrowUp")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile("put-right/\\?.*cam="))
    expect(page.locator("#what-if [name=cam]")).not_to_have_value("")
    expect(page.locator("[name=gasket_thick]")).not_to_have_value("")
    expect(page.locator("#tried h3").first).to_contain_text("If:")


def test_pistons_are_ordered_from_targets_and_their_sheet_printed(open_page):
    page = open_page("/builds/1/before-you-buy/")
    expect(page.locator(".drawing")).to_contain_text("Gasket to order")
    for name, text in {"quench": "42", "face": "5", "ratio": "10", "intake_relief": "60"}.items():
        page.locator(f"#to-order [name={name}]").fill(text)
        page.keyboard.press("Tab")
    expect(page.locator(".ordered")).to_contain_text("Compression height")
    expect(page.locator(".ordered")).to_contain_text("reliefs included")
    expect(page.locator(".piston-order .piston-pocket").first).to_be_visible()
    expect(page.locator("#to-order [name=quench]")).to_have_value("42")
    page.get_by_role("link", name="Printed order").click()
    expect(page.locator(".build-sheet")).to_contain_text("The maker’s answer")
    page.emulate_media(media="print")
    expect(page.get_by_role("table", name="Pistons to order")).to_be_visible()
    expect(page.locator(".build-sheet .ways")).to_be_hidden()


def test_pointing_at_the_map_says_what_is_left_there(open_page):
    page = open_page("/builds/1/put-right/explore/?across=cam&up=relief-deeper-exhaust")
    box = page.locator(".room-map svg").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + box["height"] * 0.3)
    expect(page.locator("[data-says]")).to_contain_text("margin")
