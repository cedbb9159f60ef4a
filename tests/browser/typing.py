"""Typing as a gauge does that sends its value and Enter."""


def type_in(page, *keys):
    for text in keys:
        page.keyboard.type(text)
        page.keyboard.press("Enter")
        # A person looks up between readings; the page says that it saved by moving on.
        page.wait_for_function("() => !document.querySelector('.saving')")
