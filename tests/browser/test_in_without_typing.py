"""Readings nobody types: a form filled by the simulated gauge, and an imported table."""

import json
import threading
import urllib.request
from uuid import uuid4

from django_scopes import scopes_disabled
from playwright.sync_api import expect

from launch import gauge
from tests.browser.typing import SENT
from web.builds.models import Entry
from web.programs.models import GaugeReading
from web.shops.models import Person
from web.shops.program_keys import make_key

READINGS = ["0.10 down", "0.12 down", "0.15 down"]


def test_a_sheet_is_filled_by_the_gauge_without_touching_the_machine(open_page, live_server, tmp_path):
    page = open_page("/builds/4/deck/", allow=["422"])
    with scopes_disabled():
        key = make_key(Person.objects.get(username="ottoline"), "bridge", writes=True)
    page.reload()
    expect(page.locator("[data-gauge-says]")).to_have_text("Listening for your gauge.")
    page.locator("[name=deck-2]").click()
    file = tmp_path / "readings.txt"
    file.write_text("\n".join([READINGS[0], "nonsense", *READINGS[1:]]))
    sending = threading.Thread(
        target=gauge.main, args=[["--address", live_server.url, "--key", key, "--gauge", "bridge", "--file", str(file)]]
    )
    sending.start()
    # What no field reads is refused to the gauge; the others go on from field to field.
    for row, reading in zip((2, 3, 4), READINGS, strict=True):
        expect(page.locator(f"#row-{row} .saved b")).to_have_text(reading)
    sending.join()
    page.wait_for_function(SENT)
    with scopes_disabled():
        typed = list(Entry.objects.filter(build=4, kind="deck", typed__in=READINGS).values_list("typed", flat=True))
        assert typed == READINGS, "each once, in the order it was read"
        assert {row.data["instrument"] for row in Entry.objects.filter(build=4, typed__in=READINGS)} == {"bridge"}
        assert GaugeReading.objects.count() == 3


def test_what_a_gauge_sent_while_no_field_had_the_cursor_waits_in_the_tray(open_page, live_server, tmp_path):
    page = open_page("/builds/4/deck/")
    with scopes_disabled():
        key = make_key(Person.objects.get(username="ottoline"), "bridge", writes=True)
    file = tmp_path / "readings.txt"
    file.write_text("0.10 down\n2.85\n0.12 down")
    gauge.main(["--address", live_server.url, "--key", key, "--gauge", "rod", "--file", str(file)])
    # Sent while no page listened: opened later, a sheet takes none of it into a field.
    page.reload()
    tray = page.locator("[data-tray]")
    expect(tray).to_have_text("3 in the tray")
    expect(page.locator(".line-mark")).to_have_count(0)
    page.locator("[name=deck-3]").click()
    tray.click()
    dialog = page.locator("#tray")
    expect(dialog.locator("[data-reading]")).to_have_count(3)
    expect(dialog).to_contain_text("In which unit does this gauge send bare numbers?")
    dialog.get_by_role("button", name="millimetres").click()
    expect(dialog).to_contain_text("2.85 mm")
    dialog.get_by_role("button", name="Put it into Deck of cylinder 3").first.click()
    expect(dialog.locator("[data-reading]")).to_have_count(2)
    dialog.locator("[data-discard]").first.click()
    expect(dialog.locator("[data-reading]")).to_have_count(1)
    dialog.get_by_role("button", name="Close").click()
    expect(page.locator("#row-3 .saved b")).to_have_text("0.10 down")
    expect(tray).to_have_text("1 in the tray")


def test_six_readings_in_a_row_land_in_six_fields_though_each_answer_takes_a_second(open_page, live_server):
    page = open_page("/builds/1/clay/?cylinder=3&mockup=A")
    with scopes_disabled():
        key = make_key(Person.objects.get(username="ottoline"), "caliper", writes=True)
    page.reload()
    expect(page.locator("[data-gauge-says]")).to_have_text("Listening for your gauge.")
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    slow = {"offline": False, "latency": 1000, "downloadThroughput": -1, "uploadThroughput": -1}
    network.send("Network.emulateNetworkConditions", slow)
    page.locator("[name=clay-intake-1-face-0]").click()
    readings = [f"{at} thou" for at in range(90, 96)]
    said = {"Authorization": f"Bearer {key}", "Content-Type": "application/json"}
    for text in readings:
        body = json.dumps({"value": text, "gauge": "", "token": str(uuid4())}).encode()
        urllib.request.urlopen(urllib.request.Request(f"{live_server.url}/api/gauge", body, said)).close()
        page.wait_for_timeout(300)
    expect(page.locator(".slots .saved b")).to_have_count(6)
    with scopes_disabled():
        clay = Entry.objects.filter(build=1, kind="clay", data__place__cylinder=3).order_by("pk")
        found = [(row.data["place"]["side"], row.data["gap"], row.typed) for row in clay]
    places = [("intake", "face")] * 3 + [("intake", "radial")] + [("exhaust", "face")] * 2
    assert found == [(*place, text) for place, text in zip(places, readings, strict=True)]


def test_a_table_is_pasted_looked_at_and_taken_in(open_page):
    page = open_page("/builds/1/readings-in/")
    page.get_by_label("or the table itself").fill("place;mockup;thickness (thou)\nE6;A;112\nE9;A;98")
    page.get_by_role("button", name="Preview").click()
    expect(page.get_by_role("alert")).to_contain_text("There is no cylinder 9")
    page.get_by_role("link", name="Another table").click()
    page.get_by_label("or the table itself").fill("place;mockup;thickness (thou)\nE6;A;112")
    page.get_by_role("button", name="Preview").click()
    page.get_by_role("button", name="Import").click()
    expect(page.get_by_role("status")).to_contain_text("1 reading imported")


CABLE = """() => {
  const listeners = {};
  let into;
  const port = {
    async open({ baudRate }) {
      port.baud = baudRate;
      port.readable = new ReadableStream({ start: (controller) => { into = controller; } });
    },
    async close() {},
  };
  Object.defineProperty(navigator, "serial", { value: {
    getPorts: async () => (sessionStorage.granted || localStorage.granted ? [port] : []),
    requestPort: async () => { localStorage.granted = "yes"; return port; },
    addEventListener: (name, done) => { listeners[name] = done; },
  } });
  window.cable = (text) => into.enqueue(new TextEncoder().encode(text));
  window.cableSpeed = () => port.baud;
}"""
"""A stand-in for a serial port, as the browser gives one to a page."""


def test_a_gauge_on_a_cable_fills_a_sheet_and_what_the_server_misses_waits_and_comes_in_order(open_page):
    page = open_page("/", allow=["503", "Failed to load resource"])
    page.add_init_script(f"({CABLE})()")
    page.goto("/shelf/gauges/")
    page.locator("[name=gauge]").select_option("bridge")
    page.get_by_role("row", name="time; number; unit").get_by_role("button", name="listen to one").click()
    expect(page.locator("[data-cable-now]")).to_have_text("This machine listens to: time; number; unit.")
    page.goto("/builds/4/deck/")
    expect(page.locator("[data-cable-says]")).to_contain_text("Listening to time; number; unit")
    assert page.evaluate("cableSpeed()") == 9600
    # A line comes in pieces, and two come at once.
    page.evaluate("cable('10:00;0.10')")
    page.evaluate("cable(' down;\\r\\n')")
    expect(page.locator("[data-cable-says]")).to_contain_text("not taken")
    page.evaluate("cable('10:01;0.10;')")
    page.evaluate("cable('mm\\r\\n10:02;0.')")
    # Before any field had the cursor, and a bare length says not which way a crown stands: it waits to be placed.
    expect(page.locator("[data-tray]")).to_contain_text("in the tray")


def test_clay_by_a_cable_gauge_is_saved_once_and_in_order_though_the_server_is_away_meanwhile(open_page):
    page = open_page("/", allow=["503", "Failed to load resource"])
    page.add_init_script(f"({CABLE})()")
    page.goto("/shelf/gauges/")
    page.get_by_role("row", name="a number and its unit").get_by_role("button", name="listen to one").click()
    away = {"is": True}

    def route(route):
        route.fulfill(status=503) if away["is"] else route.continue_()

    page.route("**/gauge/line/", route)
    page.goto("/builds/1/clay/?cylinder=3&mockup=A")
    expect(page.locator("[data-cable-says]")).to_contain_text("Listening to")
    page.locator("[name=clay-intake-1-face-0]").click()
    page.evaluate("cable('0.1120 in\\r\\n0.1130 in\\r\\n0.1140 in\\r\\n')")
    expect(page.locator("[data-cable-says]")).to_have_text("3 from the cable wait for the server")
    # Over a reload they wait on.
    page.reload()
    expect(page.locator("[data-cable-says]")).to_contain_text("wait for the server")
    away["is"] = False
    # The cursor of that page is gone with it: what was read before is placed by hand.
    expect(page.locator("[data-tray]")).to_have_text("3 in the tray")
    page.locator("[name=clay-intake-1-face-0]").click()
    page.locator("[data-tray]").click()
    for left in (2, 1, 0):
        page.locator("#tray [data-place]").first.click()
        expect(page.locator("#tray [data-reading]")).to_have_count(left)
    page.get_by_role("button", name="Close").click()
    expect(page.locator(".slots .saved b")).to_have_text(["112", "113", "114"])
    with scopes_disabled():
        found = list(
            Entry.objects.filter(build=1, kind="clay", data__place__cylinder=3).values_list("typed", flat=True)
        )
    assert found == ["0.1120 in", "0.1130 in", "0.1140 in"]
