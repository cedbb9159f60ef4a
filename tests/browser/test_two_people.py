"""Two browsers at one build, and one whose session ends while somebody types."""

from playwright.sync_api import expect

NOT_SIGNED_IN = "401"


def test_each_sees_what_the_other_wrote_and_keeps_what_is_being_typed(open_page):
    ottoline, other = open_page("/builds/4/deck/"), open_page("/builds/4/deck/")
    ottoline.locator("[name=deck-3]").fill("0.2")
    other.locator("[name=deck-2]").fill("0.3 down")
    other.locator("[name=deck-2]").press("Enter")
    expect(other.locator("#row-2 .saved b")).to_have_text("0.30 down")
    # Within a few seconds, without a reload; the field in hand keeps its text and the focus.
    expect(ottoline.locator("#row-2 .saved b")).to_have_text("0.30 down")
    expect(ottoline.locator(".news")).to_contain_text("Ottoline wrote something here")
    expect(ottoline.locator("[name=deck-3]")).to_have_value("0.2")
    ottoline.locator("[name=deck-3]").press_sequentially(" down")
    ottoline.locator("[name=deck-3]").press("Enter")
    expect(ottoline.locator("#row-3 .saved b")).to_have_text("0.20 down")


def test_a_page_with_a_form_is_told_and_left_alone(open_page):
    form, other = open_page("/builds/4/block/"), open_page("/builds/4/deck/")
    form.get_by_label("Name").fill("Plover the second")
    other.locator("[name=deck-2]").fill("0.3 down")
    other.locator("[name=deck-2]").press("Enter")
    expect(form.locator(".news")).to_contain_text("Show it")
    expect(form.get_by_label("Name")).to_have_value("Plover the second")


def test_what_is_typed_once_signed_out_waits_and_is_written_after_signing_in_in_another_tab(open_page):
    page = open_page("/builds/4/deck/", allow=[NOT_SIGNED_IN])
    context = page.context
    context.clear_cookies(name="sessionid")
    page.locator("[name=deck-2]").fill("0.3 down")
    page.locator("[name=deck-2]").press("Enter")
    expect(page.locator("#row-2 .echo")).to_contain_text("signed out; not saved yet")
    expect(page.locator("[name=deck-2]")).to_have_value("0.3 down")
    with context.expect_page() as opened:
        page.locator("#row-2 .echo a").click()
    tab = opened.value
    tab.get_by_role("button", name="Open the demo shop").click()
    expect(tab).to_have_title("The stand · Astute Mole")
    # The token of the page is of before; its own is fetched, and the field is sent by itself.
    expect(page.locator("#row-2 .saved b")).to_have_text("0.30 down")


def test_what_is_typed_and_not_saved_outlives_a_reload(open_page):
    page = open_page("/builds/4/deck/", allow=[NOT_SIGNED_IN])
    page.context.clear_cookies(name="sessionid")
    page.on("dialog", lambda dialog: dialog.accept())
    page.locator("[name=deck-2]").fill("0.3 down")
    page.locator("[name=deck-2]").press("Enter")
    expect(page.locator("#row-2 .echo")).to_contain_text("signed out")
    page.reload()
    page.get_by_role("button", name="Open the demo shop").click()
    page.goto("/builds/4/deck/")
    expect(page.locator("[name=deck-2]")).to_have_value("0.3 down")
    page.locator("[name=deck-2]").press("Enter")
    expect(page.locator("#row-2 .saved b")).to_have_text("0.30 down")


def test_a_form_sent_once_signed_out_is_kept_whole_and_sent_after(open_page):
    page = open_page("/builds/new/", allow=[NOT_SIGNED_IN, "403"])
    page.get_by_label("Name").fill("Teal")
    page.get_by_label("Cylinders").fill("4")
    page.context.clear_cookies(name="sessionid")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("heading", name="Signed out")).to_be_visible()
    expect(page.locator("main")).to_contain_text("Teal")
    with page.context.expect_page() as opened:
        page.get_by_role("link", name="Sign in in another tab").click()
    opened.value.get_by_role("button", name="Open the demo shop").click()
    expect(opened.value).to_have_title("The stand · Astute Mole")
    page.get_by_role("button", name="Send it again").click()
    # The token of that page is of before, too: it comes back once more, with a fresh one.
    if page.get_by_role("button", name="Send it again").count():
        page.get_by_role("button", name="Send it again").click()
    expect(page.locator("h1")).to_contain_text("Teal")
