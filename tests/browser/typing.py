"""Typing as a gauge does that sends its value and Enter."""

SENT = "() => !globalThis.lineStore || lineStore.waiting().length === 0"
"""Whether every line that left the hand has its answer."""


def type_in(page, *keys):
    for text in keys:
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        # A person who follows what the page recommends looks up between readings.
        page.wait_for_function(SENT)


def fill_form(page, **fields):
    for folded in page.locator("details.engine-known:not([open]) > summary").all():
        folded.click()
    for name, value in fields.items():
        field = page.locator(f"[name={name}]")
        field.focus()
        if field.evaluate("field => field.tagName") == "SELECT":
            field.select_option(value)
        else:
            page.keyboard.press("Control+a")
            page.keyboard.type(value)
