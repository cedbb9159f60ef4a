"""Readings nobody types: a sheet filled by the simulated gauge, and a table looked at and taken in."""

import threading

from django_scopes import scopes_disabled
from playwright.sync_api import expect

from bench.builds.models import Entry
from bench.programs.models import GaugeReading
from bench.shops.models import Person
from bench.shops.program_keys import make_key
from launch import gauge

READINGS = ["0.10 down", "0.12 down", "0.15 down"]


def test_a_sheet_is_filled_by_the_gauge_without_touching_the_machine(open_page, live_server, tmp_path):
    page = open_page("/builds/4/deck/", allow=["422"])
    with scopes_disabled():
        key = make_key(Person.objects.get(username="ottoline"), "bridge", writes=True)
    page.reload()
    expect(page.locator("[data-gauge-says]")).to_have_text("Listening for your gauge.")
    file = tmp_path / "readings.txt"
    file.write_text("\n".join([READINGS[0], "nonsense", *READINGS[1:]]))
    sending = threading.Thread(
        target=gauge.main, args=[["--address", live_server.url, "--key", key, "--gauge", "bridge", "--file", str(file)]]
    )
    sending.start()
    # Cylinder 1 was read before: the first field that is asked for and empty is that of 2.
    expect(page.locator("#row-2 .saved b")).to_have_text("0.10 down")
    # What was refused stays at its field and says why; what follows waits until somebody has looked.
    expect(page.locator(".wrong").first).to_be_visible()
    wrong = page.locator(".bench-field.is-invalid, .bench-field[aria-invalid=true]").first
    wrong.fill("")
    expect(page.locator("#row-4 .saved b")).to_have_text(READINGS[2])
    sending.join()
    page.wait_for_function("() => !document.querySelector('.saving')")
    with scopes_disabled():
        typed = list(Entry.objects.filter(build=4, kind="deck", typed__in=READINGS).values_list("typed", flat=True))
        assert typed == READINGS, "each once, in the order it was read"
        assert {row.data["instrument"] for row in Entry.objects.filter(build=4, typed__in=READINGS)} == {"bridge"}
        assert GaugeReading.objects.count() == 4


def test_a_table_is_pasted_looked_at_and_taken_in(open_page):
    page = open_page("/builds/1/readings-in/")
    page.get_by_label("or the table itself").fill("place;mockup;thickness (thou)\nE6;A;112\nE9;A;98")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("alert")).to_contain_text("There is no cylinder 9")
    page.get_by_role("link", name="Another table").click()
    page.get_by_label("or the table itself").fill("place;mockup;thickness (thou)\nE6;A;112")
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_role("status")).to_contain_text("1 reading taken in")
