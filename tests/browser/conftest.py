"""Headless Chromium on the demo's own application."""

import os
import shutil
import time

import pytest
from django.core.management import call_command
from django.db import connection
from playwright.sync_api import expect, sync_playwright

# Playwright's driver runs an event loop in this thread, which Django would take for asynchronous code.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

# A busy machine answers late; what never comes is waited for so long only where a test fails (MOLE_PATIENCE_MS).
PATIENCE_MS = int(os.environ.get("MOLE_PATIENCE_MS", "90000"))
expect.set_options(timeout=PATIENCE_MS)

QUIET = [
    "--no-sandbox",
    # Letters as wide as a browser with a window has them.
    "--font-render-hinting=none",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def chromium():
    # The one without a window does the same pages with half the work, and is what ./mole test installs.
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert path, "Chromium is missing: ./mole test installs it"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path, args=QUIET)
        yield browser
        browser.close()


@pytest.fixture
def open_page(chromium, live_server, django_db_reset_sequences):
    """Opens a signed-in page; what the browser complains of fails the test at its end.

    Numbers of rows begin at 1 in every test: build 1 is the Bittern, 2 the Wren, 3 the Lapwing, 4 the Plover.
    """
    call_command("load_demo")
    complaints, contexts = [], []

    def open_at(address="/", *, allow=(), **options):
        context = chromium.new_context(
            base_url=live_server.url,
            # Pages kept for later are asked for by the journey without a connection, and by no other.
            **({"viewport": {"width": 1280, "height": 800}, "service_workers": "block"} | options),
        )
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)

        def complain(message):
            if not any(words in message for words in allow):
                complaints.append(message)

        page.on("pageerror", lambda error: complain(str(error)))
        page.on("console", lambda message: complain(message.text) if message.type == "error" else None)
        page.goto("/sign-in/")
        page.get_by_role("button", name="Open the demo shop").click()
        page.goto(address)
        return page

    yield open_at
    for context in contexts:
        context.close()
    _until_nothing_is_written()
    assert complaints == []


def _until_nothing_is_written():
    """Wait for pending answers before the tables are emptied."""
    gives_up = time.monotonic() + 30
    with connection.cursor() as cursor:
        while time.monotonic() < gives_up:
            cursor.execute(
                "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database()"
                " AND pid <> pg_backend_pid() AND state <> 'idle'"
            )
            if cursor.fetchone() == (0,):
                return
            time.sleep(0.05)
