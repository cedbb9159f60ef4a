"""Long ways through the application in a real browser, keyboard first."""

import json

import pytest
from playwright.sync_api import expect

from launch import check
from tests.browser.typing import fill_form, type_in

pytestmark = pytest.mark.browser


def read_clay(page):
    for cylinder, exhaust in ((1, ["112", "110", "111"]), (2, ["101", "102", "101"])):
        page.goto(page.url.split("/mock-up")[0].split("/clay")[0] + f"/clay/?cylinder={cylinder}")
        type_in(page, "96", "97", "98", "54", *exhaust, "41")


def past_the_indicator(page):
    page.keyboard.press("Escape")  # the cursor stays in the last field: what is typed goes somewhere visible
    page.keyboard.press("]")
    expect(page.locator("[name=sweep-0]")).to_be_focused()
    page.keyboard.press("Escape")
    page.keyboard.press("]")


def test_a_small_build_is_typed_with_the_keyboard_alone_and_judged_as_the_command_line_judges_it(
    open_page, tmp_path, capsys
):
    page = open_page("/builds/new/")
    fill_form(page, name="Tern", limits="street-floor", cylinders="2", bore_mm="3.75", stroke_mm="3.875")
    fill_form(page, rod_length_mm="6.8", rocker_ratio="1.5", intake_angle_deg="12", exhaust_angle_deg="12")
    page.keyboard.press("Enter")

    # It opens where the first thing is read; whoever found TDC goes on to the decks.
    page.wait_for_url("**/tdc/")
    page.goto(page.url.replace("tdc", "deck"))
    expect(page.get_by_role("heading", name="Deck")).to_be_visible()
    page.locator("[name=deck-1]").focus()
    type_in(page, "5 down", "4.5 down")
    expect(page.locator("#row-2 .saved b")).to_have_text("4.5 down")

    page.keyboard.press("Enter")  # the sheet is full: from an empty field to the next thing to do
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Gasket and cut")).to_be_visible()
    page.locator("[name=compressed_mm]").focus()
    page.keyboard.type("36")
    page.keyboard.press("Tab")
    page.keyboard.type("3.825")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Final gasket")).to_contain_text("36")
    page.keyboard.press("Escape")
    page.keyboard.press("n")
    # Nobody is sent to a burette whose sheet does not judge the ratio; who wants it goes there.
    page.wait_for_url("**/mock-up/")
    page.goto(page.url.replace("mock-up", "volumes"))
    expect(page.get_by_role("heading", name="Volumes")).to_be_visible()
    page.locator("[name=chamber-all]").focus()
    type_in(page, "64", "dish 5.2")
    expect(page.locator("#strip-compression-ratio .big")).not_to_contain_text("—")

    page.keyboard.press("Escape")
    page.goto(page.url.replace("volumes", "mock-up"))
    fill_form(page, gasket_state="compressed", bolts="torqued", lifters="solid", springs="checking", two_turns="yes")
    fill_form(page, overlap="both valves moving", dial_turns="turns counter", gasket_mm="39")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status")).to_contain_text("Mock-up A")

    read_clay(page)
    expect(page.locator("#strip-exhaust-face")).to_contain_text("too close to call")
    expect(page.locator("#strip-exhaust-face")).to_contain_text("98.1 ±8.5, wants 100")
    expect(page.locator("#strip-intake-face")).to_contain_text("clear")

    past_the_indicator(page)
    expect(page.locator(".verdict-words")).to_contain_text("Not clear")
    judged_as_by_the_command_line(page, tmp_path / "tern.job.json", capsys)


def judged_as_by_the_command_line(page, file, capsys):
    with page.expect_download() as download:
        page.get_by_role("link", name="The build as a job file").click()
    download.value.save_as(file)
    assert check.main([str(file), "--json"]) == 1
    printed = json.loads(capsys.readouterr().out)
    states = {one["label"]: one["state"] for one in printed["checks"] if one["required"] or one["figure"]}
    # "Intake 1: 95 ±8.5, clear": every cell of the table says itself in words.
    said = [text.strip() for text in page.locator("[data-matrix] td .visually-hidden").all_text_contents()]
    shown = {text.partition(":")[0]: text.rpartition(", ")[2] for text in said}
    assert {label: shown[label] for label in states} == states
    assert states["Exhaust 2"] == "too close to call"


def test_a_line_that_is_not_taken_says_why_at_its_place_and_waits_for_one_key(open_page):
    page = open_page("/builds/4/deck/")
    page.locator("[name=deck-2]").focus()
    type_in(page, "5 in", "0.2 down")
    expect(page.locator("#row-3 .saved b")).to_have_text("0.20 down")
    expect(page.locator("#row-2 .line-mark")).to_contain_text("down or out")
    expect(page.locator("[data-refused]")).to_contain_text("1 entry not taken")
    # The cursor went on with the hand; one key brings the text back into its field.
    expect(page.locator("[name=deck-4]")).to_be_focused()
    page.keyboard.press("F2")
    expect(page.locator("[name=deck-2]")).to_be_focused()
    expect(page.locator("[name=deck-2]")).to_have_value("5 in")
    page.keyboard.press("Control+a")
    type_in(page, "0.22 down")
    expect(page.locator("#row-2 .saved b")).to_have_text("0.22 down")
    expect(page.locator("[data-refused]")).to_be_hidden()


def test_typing_is_echoed_in_both_units_before_it_is_saved(open_page):
    page = open_page("/builds/1/clay/?cylinder=2")
    page.locator("[name=clay-intake-1-face-0]").focus()
    page.keyboard.type("112")
    expect(page.locator(".slots .echo").first).to_have_text("0.1120 in · 2.845 mm")


def test_leaving_a_field_saves_it_and_other_half_typed_ones_stay(open_page):
    page = open_page("/builds/4/deck/")
    page.locator("[name=deck-3]").focus()
    page.keyboard.type("0.3 down")
    page.locator("[name=deck-4]").focus()
    page.keyboard.type("0.")
    expect(page.locator("#row-3 .saved b")).to_have_text("0.30 down")
    expect(page.locator("[name=deck-4]")).to_have_value("0.")
    expect(page.locator("[name=deck-4]")).to_be_focused()


def test_while_the_server_is_away_a_line_waits_visibly_and_is_written_once(open_page):
    page = open_page("/builds/4/deck/", allow=["Failed to fetch", "ERR_", "Failed to load"])
    reached = []

    def lose_the_answer(route):
        reached.append(route.fetch())  # the server has it, the browser never hears of it
        route.abort()

    page.route("**/entries/", lose_the_answer)
    page.locator("[name=deck-2]").focus()
    page.keyboard.type("0.24 down")
    page.keyboard.press("Enter")
    expect(page.locator("#row-2 .line-mark")).to_contain_text("waits: no connection")
    expect(page.locator("[data-waiting]")).to_contain_text("No connection: 1 entry waits here")
    page.unroute("**/entries/")
    expect(page.locator("#row-2 .saved b")).to_have_text("0.24 down")
    assert reached
    assert page.locator("#row-2 .saved").count() == 1


def test_a_reading_is_struck_out_where_it_stands(open_page):
    page = open_page("/builds/1/clay/?cylinder=6")
    page.locator("summary[aria-label^='105.5']").click()
    form = page.locator("details[open].strike")
    form.locator("[name=reason]").fill("dented by the caliper")
    form.get_by_role("button", name="Strike out").click()
    expect(page.locator("#strip-exhaust-face")).to_contain_text("103.1 ±8.5")


def test_the_demo_works_without_script(open_page):
    page = open_page("/builds/4/deck/", java_script_enabled=False)
    page.locator("[name=deck-2]").fill("0.19 down")
    page.locator("[name=deck-3]").fill("0.20 down")
    page.get_by_role("button", name="Save what is typed").click()
    expect(page.locator("#row-3 .saved b")).to_have_text("0.20 down")


def test_keys_open_their_list_and_go_to_the_next_thing(open_page):
    page = open_page("/builds/4/verdict/")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("n")
    expect(page.get_by_role("heading", name="Deck")).to_be_visible()


def test_esc_leaves_a_field_and_saves_what_was_typed_in_it(open_page):
    page = open_page("/builds/4/deck/")
    page.locator("[name=deck-3]").focus()
    page.keyboard.type("0.3 down")
    page.keyboard.press("Escape")
    expect(page.locator("#row-3 .saved b")).to_have_text("0.30 down")
