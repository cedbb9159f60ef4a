"""Typing as a gauge does that sends its value and Enter."""


def type_in(page, *keys):
    for text in keys:
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        # A person looks up between readings; the page says that it saved by moving on.
        page.wait_for_function("() => !document.querySelector('.saving')")


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
