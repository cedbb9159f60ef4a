"""What is typed is what is written: a quick hand, a slow server, cut connections."""

import contextlib
import os
import random
import re

import pytest
from django_scopes import scopes_disabled
from playwright.sync_api import Error

from tests.browser import texts
from tests.browser.typist import WATCH, Typist
from web.builds.models import Entry

LINES = int(os.environ.get("MOLE_TYPIST", "300"))
HANDS = 3
"""So many pages type their share, one after another or beside each other."""
SHEETS = (
    "/builds/1/deck/",
    "/builds/1/deck/?cylinder=2",
    "/builds/1/clay/?cylinder=2",
    "/builds/1/volumes/",
    "/builds/1/indicator/?cylinder=3&valve=intake-1",
    "/builds/1/clay/?cylinder=5",
    "/builds/1/pushrods/?cylinder=4",
    "/builds/1/indicator/?cylinder=4&valve=exhaust-1",
)
OFF = ["Failed to", "ERR_", "net::"]
SLOWEST_MS = 3000


class Network:
    """The browser's own network, slow and cut now and then, without stopping the hand."""

    def __init__(self, page, chance):
        self.page, self.chance = page, chance
        self.devtools = page.context.new_cdp_session(page)
        self.devtools.send("Network.enable")

    def be(self, latency_ms=0.0, *, offline=False):
        how = {"offline": offline, "latency": latency_ms, "downloadThroughput": -1, "uploadThroughput": -1}
        self.devtools.send("Network.emulateNetworkConditions", how)

    def change(self):
        self.be(self.chance.uniform(0, SLOWEST_MS), offline=self.chance.random() < 0.15)


def lose_some(page, chance):
    """Some requests never arrive, and of some the answer is lost; what is lost is sent again."""

    def handle(route):
        met = chance.random()
        if met < 0.05:
            route.abort()
        elif met < 0.08:
            route.fetch()
            # A page that was loaded again meanwhile has dropped the answer itself.
            with contextlib.suppress(Error):
                route.abort()
        else:
            route.continue_()

    page.route("**/entries/", handle)


def written_since(last):
    with scopes_disabled():
        return [texts.kept_at(entry) for entry in Entry.objects.filter(pk__gt=last).order_by("pk")]


def last_entry():
    with scopes_disabled():
        return Entry.objects.latest("pk").pk


@pytest.mark.parametrize("hand", range(HANDS))
def test_a_quick_hand_on_a_slow_network_loses_doubles_and_misplaces_nothing(open_page, hand):
    chance = random.Random(20261130 + hand)  # noqa: S311, chance is no secret
    page = open_page("/", allow=OFF)
    page.add_init_script(WATCH)
    lose_some(page, chance)
    network, last = Network(page, chance), last_entry()

    def between():
        met = chance.random()
        if met < 0.3:
            network.change()
        elif met < 0.34:
            network.be()
            page.reload()

    typist, sheet = Typist(page, chance), hand
    while len(typist.typed) < LINES / HANDS:
        network.be()
        typist.go(SHEETS[sheet % len(SHEETS)])
        sheet += 1
        for _ in range(chance.randrange(8, 25)):
            typist.line()
            between()
    network.be()
    page.unroute("**/entries/")
    typist.until_sent()
    assert written_since(last) == typist.typed
    assert typist.unasked == []


OLD_WAY = """
      field.readOnly = true;
      make(field, field.value);
      const until = () => {
        if (lineStore.waiting().length) return void setTimeout(until, 20);
        field.readOnly = false;
        go(next(field));
      };
      until();
"""
"""Lock the field, wait for the answer, then move the cursor: what this program did before."""


@pytest.mark.parametrize("way", ["as it is", "waiting for each answer"])
def test_the_proof_sees_a_page_that_waits_for_its_answers(open_page, way):
    chance = random.Random(4)  # noqa: S311, chance is no secret
    page = open_page("/", allow=OFF)

    def old(route):
        source = route.fetch().text()
        ours = "      make(field, field.value);\n      go(next(field));\n"
        assert ours in source
        route.fulfill(
            body=source.replace(ours, OLD_WAY) if way != "as it is" else source, content_type="text/javascript"
        )

    page.route(re.compile(r"/entry(\.[0-9a-f]+)?\.js"), old)
    page.add_init_script(WATCH)
    network, last = Network(page, chance), last_entry()
    page.goto("/builds/4/deck/")
    network.be(400)
    typist = Typist(page, chance)
    for text in ("0.05 down", "0.07 down", "0.09 down", "0.11 down"):
        typist.typed.append((f"deck-{len(typist.typed) + 1}", "", "", text))
    typist.into("deck-1")
    for _, _, _, text in typist.typed:
        page.keyboard.type(text, delay=40)
        page.keyboard.press("Enter")
    page.wait_for_function("() => lineStore.waiting().length === 0")
    network.be()
    typist.collect()
    right = sorted(written_since(last)) == sorted(typist.typed) and not typist.unasked
    assert right == (way == "as it is")
