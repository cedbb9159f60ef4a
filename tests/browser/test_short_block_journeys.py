"""A journey through each station of the short block, typed in a real browser."""

import pytest
from playwright.sync_api import expect

from tests.browser.typing import type_in

pytestmark = pytest.mark.browser


def test_tdc_is_found_from_two_pairs_and_the_wheel_is_drawn(open_page):
    page = open_page("/builds/4/tdc/")
    for before, after in (("31", "33.5"), ("31.5", "33.5")):
        page.locator("[name=before_deg]").focus()
        page.keyboard.type(before)
        page.keyboard.press("Tab")
        page.keyboard.type(after)
        page.keyboard.press("Enter")
        expect(page.locator(".pairs")).to_contain_text(f"{before}° before, {after}° after")
    expect(page.locator(".verdict-words")).to_contain_text("1.1° late")
    expect(page.locator("svg.wheel .ray")).to_have_count(3)
    expect(page.locator(".drawing")).to_contain_text("number 1 at firing TDC: at overlap is")


def test_decks_are_typed_with_a_depth_gauge_and_edges_show_the_rock(open_page):
    page = open_page("/builds/4/deck/?cylinder=2")
    page.locator("[name=instrument]").select_option("depth-rod")
    page.locator("[name=counts]").select_option("depth")
    page.locator("[name=zero]").fill("0.02")
    page.locator("[name=deck-2]").focus()
    page.keyboard.type("0.25")
    expect(page.locator("#row-2 .echo")).to_contain_text("0.230 mm · 0.0091 in down")
    type_in(page, "", "0.24", "0.26")
    expect(page.locator("#row-2 .saved b")).to_have_text("0.23 down")
    expect(page.locator("#row-4 .saved b")).to_have_text("0.24 down")
    expect(page.locator("[name=zero]")).to_have_value("0.02")
    page.locator("[name=edge-2-thrust-thrust]").focus()
    type_in(page, "0.31", "0.19", "0.20", "0.30")
    expect(page.locator("svg.rocks")).to_contain_text("±0.06")
    expect(page.locator(".drawing")).to_contain_text("front to rear")


def test_a_dial_that_went_backwards_is_put_into_the_field(open_page):
    page = open_page("/builds/1/deck/")
    page.locator("[name=counts]").select_option("depth")
    page.locator("[name=deck-3]").focus()
    page.locator(".dial summary").click()
    page.locator("[name=way]").select_option("back")
    page.locator("[name=shown]").fill("14")
    expect(page.locator(".dial output")).to_contain_text("86 divisions")
    page.get_by_role("button", name="put it in the field").click()
    expect(page.locator("[name=deck-3]")).to_have_value("86")


def test_a_cut_is_weighed_decided_done_and_read_again(open_page):
    page = open_page("/builds/1/stack/")
    page.locator("[name=target]").fill("zero")
    page.keyboard.press("Enter")
    squared = page.locator(".plan-line").filter(has_text="All round, by the highest edge")
    expect(squared).to_contain_text("after the cut")
    squared.get_by_role("button", name="Decide this cut").click()
    expect(page.locator(".next-step")).to_contain_text("decided and not done")
    page.get_by_role("button", name="Mark it done").click()
    expect(page.locator(".run")).to_contain_text("read again")
    expect(page.locator("#strip-exhaust-face")).to_contain_text("deck cut since it was read")
    page.keyboard.press("n")
    expect(page.get_by_role("heading", name="Deck", exact=False).first).to_be_visible()
    expect(page.locator("#row-1")).to_contain_text("read it again")
    type_in(page, "1 down", "1.5 down", "2.5 down", "3 down", "2 out", "4 down")
    expect(page.locator("#deck-sheet")).not_to_contain_text("read it again")


def test_the_flat_twin_takes_gasket_and_shims_from_the_shelf_and_prints_its_chart(open_page):
    page = open_page("/builds/3/stack/")
    row = page.locator(".shelf-options tr").filter(has_text="aluminium ring, thin")
    row.get_by_role("button", name="Choose this gasket").click()
    expect(page.locator(".readings")).to_contain_text("Base shims under barrel 2")
    expect(page.locator("#strip-intake-face")).to_contain_text("changed since it was read")
    page.get_by_role("link", name="The deck-height chart").click()
    expect(page.locator(".deck-chart .measured")).to_have_count(2)
    page.emulate_media(media="print")
    expect(page.locator(".deck-chart")).to_be_visible()
    expect(page.locator(".who")).to_be_hidden()


def test_volumes_are_filled_and_solved_towards_a_ratio(open_page):
    page = open_page("/builds/1/volumes/")
    page.locator("[name=chamber-2]").focus()
    type_in(page, "50 + 13.6")
    expect(page.locator("#row-2")).to_contain_text("spread 0.2")
    page.locator("[name=ratio]").fill("9.8")
    page.keyboard.press("Enter")
    expect(page.locator(".drawing")).to_contain_text("for 9.8")
    page.locator("[name=piston-all]").focus()
    page.keyboard.type("48.2 at .300")
    expect(page.locator("#row-all .echo").last).to_contain_text("0.3000 in")


def test_the_running_estimate_is_reckoned_anew(open_page):
    page = open_page("/builds/1/quench/")
    before = page.locator(".term.total .amount").text_content()
    page.locator("summary", has_text="Running estimate").click()
    page.locator("[name=rpm]").fill("7500")
    page.keyboard.press("Enter")
    expect(page.locator(".term.total .amount")).not_to_have_text(before)
