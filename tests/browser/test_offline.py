"""Without a connection: the open build's pages stay, take readings, and send them later."""

import time

from django_scopes import scopes_disabled
from playwright.sync_api import expect

from tests.browser.conftest import PATIENCE_MS
from tests.browser.typing import SENT
from web.builds.models import Entry

OFF = ["Failed to", "ERR_", "net::"]
KEPT = "(page) => caches.open('pages').then((cache) => cache.match(new URL(page, location.origin).href)).then(Boolean)"


def opened(open_page, address):
    """A page whose service worker has kept it, and the other sheets of its build."""
    page = open_page(address, allow=OFF, service_workers="allow")
    page.evaluate("() => navigator.serviceWorker.ready.then(() => true)")
    # From the second page on the worker sees them come; the others of the build are kept while nothing else is done.
    page.reload()
    until_kept(page, address)
    return page


def until_kept(page, address, *, kept=True):
    """Wait until a page is kept, or is kept no longer."""
    until = time.monotonic() + PATIENCE_MS / 1000
    while page.evaluate(KEPT, address) != kept:
        assert time.monotonic() < until, address
        page.wait_for_timeout(50)


def test_six_readings_typed_without_a_connection_over_a_reload_are_all_there_afterwards(open_page):
    page = opened(open_page, "/builds/4/deck/")
    until_kept(page, "/builds/4/volumes/")
    page.context.set_offline(True)
    typed = ["0.21 down", "0.22 down", "0.23 down"]
    page.locator("[name=deck-2]").click()
    for text in typed:
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    expect(page.locator("[data-waiting]")).to_contain_text("No connection: 3 entries wait here")
    page.reload()
    expect(page.locator(".kept-page")).to_contain_text("No connection: this page is as it was at")
    expect(page.locator(".line-mark")).to_have_count(3)
    # Another sheet of the build, which was never opened: it takes lines too.
    page.goto("/builds/4/volumes/")
    page.locator("[name=chamber-all]").click()
    for text in ("64", "64.2"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        page.locator("[name=chamber-all]").click()
    page.goto("/builds/4/deck/")
    page.locator("[name=deck-1]").click()
    page.keyboard.type("0.2 down")
    page.keyboard.press("Enter")
    expect(page.locator("[data-waiting]")).to_contain_text("6 entries wait here")
    # What was not kept says so, and names what was.
    page.goto("/builds/4/verdict/?check=x")
    expect(page.get_by_role("heading", name="No connection")).to_be_visible()
    page.get_by_role("link", name="deck").first.click()
    page.context.set_offline(False)
    page.wait_for_function(SENT)
    expect(page.locator("#row-2 .saved b")).to_have_text("0.21 down")
    with scopes_disabled():
        found = list(Entry.objects.filter(build=4).order_by("-pk").values_list("typed", flat=True)[:6])
    assert found[::-1] == [*typed, "64", "64.2", "0.2 down"]


def test_signing_out_asks_about_lines_that_wait_and_clears_what_was_kept(open_page):
    page = opened(open_page, "/builds/4/deck/")
    page.route("**/entries/", lambda route: route.abort())
    page.locator("[name=deck-2]").click()
    page.keyboard.type("0.21 down")
    page.keyboard.press("Enter")
    expect(page.locator("[data-waiting]")).to_contain_text("No connection")
    asked = []

    def answer(dialog):
        asked.append(dialog.message)
        dialog.accept() if len(asked) > 1 else dialog.dismiss()

    page.on("dialog", answer)
    page.get_by_role("button", name="sign out").click()
    assert "1 entry on this device is not in the log" in asked[0]
    expect(page.locator("#deck-sheet")).to_be_visible()
    assert page.evaluate(KEPT, "/builds/4/deck/")
    page.get_by_role("button", name="sign out").click()
    page.wait_for_url("**/sign-in/**")
    assert not page.evaluate(KEPT, "/builds/4/deck/")
    page.unroute("**/entries/")
    page.get_by_role("button", name="Open the demo shop").click()
    page.wait_for_function(SENT)
    with scopes_disabled():
        assert Entry.objects.filter(build=4, kind="deck").last().typed == "0.21 down"


def test_pages_of_one_person_are_never_shown_to_another(open_page):
    page = opened(open_page, "/builds/4/deck/")
    page.context.clear_cookies(name="sessionid")
    page.goto("/builds/4/deck/")  # signed out meanwhile: the sign-in page comes, and what was kept is dropped
    until_kept(page, "/builds/4/deck/", kept=False)
    page.context.set_offline(True)
    page.goto("/builds/4/deck/")
    expect(page.get_by_role("heading", name="No connection")).to_be_visible()
    expect(page.locator("[data-kept-none]")).to_be_visible()
