"""Two browsers at one build, and one whose session ends while somebody types."""

from django_scopes import scopes_disabled
from playwright.sync_api import expect

from tests.browser.typing import SENT
from web.builds.models import Entry
from web.shops.models import Person

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


def test_two_hands_on_one_sheet_write_every_line_of_both(open_page):
    ottoline, other = open_page("/builds/4/deck/"), open_page("/builds/4/deck/")
    typed = []
    for at in range(1, 5):
        for page, more in ((ottoline, 0), (other, 50)):
            text = f"0.{10 + at + more} down"
            page.locator(f"[name=deck-{at}]").click()
            page.keyboard.type(text, delay=30)
            page.keyboard.press("Enter")
            typed.append(text)
    for page in (ottoline, other):
        page.wait_for_function(SENT)
    with scopes_disabled():
        kept = list(Entry.objects.filter(build=4, kind="deck").order_by("pk").values_list("typed", flat=True))
    assert sorted(kept[1:]) == sorted(typed)
    for page in (ottoline, other):
        expect(page.locator(".saved b")).to_have_count(9)


def test_what_is_typed_once_signed_out_waits_and_is_written_after_signing_in_in_another_tab(open_page):
    page = open_page("/builds/4/deck/", allow=[NOT_SIGNED_IN])
    context = page.context
    context.clear_cookies(name="sessionid")
    page.locator("[name=deck-2]").fill("0.3 down")
    page.locator("[name=deck-2]").press("Enter")
    expect(page.locator("#row-2 .line-mark")).to_contain_text("waits: signed out")
    expect(page.locator("[data-waiting]")).to_contain_text("Signed out: 1 entry waits here")
    with context.expect_page() as opened:
        page.locator("[data-sign-in] a").click()
    tab = opened.value
    tab.get_by_role("button", name="Open the demo shop").click()
    expect(tab).to_have_title("Builds · Astute Mole")
    # The token of the page is of before; its own is fetched, and the line is sent by whichever page is open.
    expect(page.locator("#row-2 .saved b")).to_have_text("0.30 down")


def test_lines_outlive_a_reload_and_so_does_what_is_still_in_its_field(open_page):
    page = open_page("/builds/4/deck/", allow=[NOT_SIGNED_IN])
    page.context.clear_cookies(name="sessionid")
    page.locator("[name=deck-2]").fill("0.3 down")
    page.locator("[name=deck-2]").press("Enter")
    page.locator("[name=deck-3]").fill("0.4 d")
    page.reload()
    page.get_by_role("button", name="Open the demo shop").click()
    page.goto("/builds/4/deck/")
    expect(page.locator("#row-2 .saved b")).to_have_text("0.30 down")
    expect(page.locator("[name=deck-3]")).to_have_value("0.4 d")


def test_lines_are_sent_under_the_name_of_who_typed_them(open_page):
    page = open_page("/builds/4/deck/", allow=[NOT_SIGNED_IN])
    with scopes_disabled():
        ottoline = Person.objects.get(username="ottoline")
        Person.objects.create_user("wilfred", password="brass-monkey", shop=ottoline.shop)
    page.context.clear_cookies(name="sessionid")
    page.locator("[name=deck-2]").fill("0.3 down")
    page.locator("[name=deck-2]").press("Enter")
    expect(page.locator("[data-waiting]")).to_contain_text("Signed out")
    tab = page.context.new_page()
    tab.goto("/sign-in/")
    tab.get_by_label("Username").fill("wilfred")
    tab.get_by_label("Password").fill("brass-monkey")
    tab.get_by_role("button", name="Sign in", exact=True).click()
    tab.goto("/builds/4/deck/")
    # Another person on the same device: neither their page nor the one still open sends it.
    expect(tab.locator(".who b")).to_have_text("wilfred")
    expect(page.locator("[data-waiting]")).to_contain_text("Signed out")
    expect(tab.locator("#row-2 .saved")).to_have_count(0)
    tab.context.clear_cookies(name="sessionid")
    tab.goto("/sign-in/")
    tab.get_by_role("button", name="Open the demo shop").click()
    expect(page.locator("#row-2 .saved b")).to_have_text("0.30 down")
    with scopes_disabled():
        assert Entry.objects.filter(build=4, kind="deck").last().by.username == "ottoline"


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
    expect(opened.value).to_have_title("Builds · Astute Mole")
    page.get_by_role("button", name="Send it again").click()
    # The token of that page is of before, too: it comes back once more, with a fresh one.
    if page.get_by_role("button", name="Send it again").count():
        page.get_by_role("button", name="Send it again").click()
    expect(page.locator("h1")).to_contain_text("Teal")
