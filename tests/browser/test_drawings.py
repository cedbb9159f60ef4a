"""Every part of a drawing has a size on the screen: no style hides one."""

import pytest

pytestmark = pytest.mark.browser

PAGES = {
    1: ("tdc", "deck", "stack", "volumes", "quench", "mock-up", "cam", "clay", "indicator", "verdict", "put-right"),
    2: ("verdict", "indicator", "volumes"),
    3: ("stack", "deck", "verdict"),
}
WITHOUT_SIZE = """() => [...document.querySelectorAll('main svg rect, main svg circle, main svg path')]
    .filter(one => getComputedStyle(one).display !== 'none')
    .filter(one => !one.closest('[hidden], defs, details:not([open]), .lines'))
    .filter(one => { const box = one.getBBox(); return one.tagName === 'path'
        ? box.width + box.height === 0
        : (box.width === 0 || box.height === 0) && +(one.getAttribute('height') || one.getAttribute('r')) > 0; })
    .map(one => one.outerHTML)"""


@pytest.mark.parametrize("build", PAGES)
def test_no_part_of_a_drawing_is_without_size(open_page, build):
    page = open_page("/")
    missing = {}
    for name in PAGES[build]:
        page.goto(f"/builds/{build}/{name}/")
        if found := page.evaluate(WITHOUT_SIZE):
            missing[name] = found
    assert missing == {}
