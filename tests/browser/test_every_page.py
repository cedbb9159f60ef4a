"""Every page in both themes and three widths: clean for axe-core, no wider than the screen.

Beside that, what axe lets pass: no id twice, no help text that is pointed to and isn't there, a caption on each table.
"""

import os

import pytest
from axe_playwright_python.sync_playwright import Axe

pytestmark = pytest.mark.browser

PAGES = [
    "/", "/quick/?read_mm=96&under=none&final_mm=41", "/quick/?what=ratio&bore_mm=3.75",
    "/quick/?what=pushrod&closed_mm=6.8&turns=11.5&preload_mm=60", "/people/", "/me/",
    "/shelf/", "/builds/new/", "/builds/import/", "/builds/1/block/", "/builds/1/tdc/", "/memory/",
    "/builds/1/alike/", "/builds/1/beside/2/", "/builds/1/readings-in/",
    "/builds/1/deck/?cylinder=6", "/builds/1/stack/?target=2+down", "/builds/1/volumes/?ratio=10&closes=60",
    "/builds/1/quench/", "/builds/1/mock-up/", "/builds/1/cam/",
    "/builds/1/pushrods/", "/builds/1/clay/?cylinder=6", "/builds/1/verdict/",
    "/builds/1/indicator/?cylinder=1&valve=exhaust-1", "/builds/1/indicator/?cylinder=3", "/builds/2/indicator/",
    "/builds/2/tdc/", "/builds/2/deck/", "/builds/2/stack/", "/builds/2/volumes/", "/builds/2/quench/",
    "/builds/2/clay/", "/builds/2/verdict/", "/builds/3/deck/", "/builds/3/stack/", "/builds/3/deck-chart/",
    "/builds/3/mock-up/", "/builds/2/cam/", "/builds/3/pushrods/?cylinder=2", "/builds/4/tdc/", "/builds/4/deck/",
    "/builds/2/put-right/?cam=2&relief_exhaust=0.2", "/builds/4/put-right/",
    "/builds/1/put-right/explore/?stack=1&gasket_mm=1&cam_deg=1&ratio=0.01&relief_mm=2&deck_mm=0",
    "/builds/2/put-right/?find=1&cam=2&crown=7&least=5", "/builds/1/assembly/", "/builds/3/assembly/",
    "/builds/1/put-right/explore/?across=cam&up=relief-deeper-exhaust", "/builds/2/put-right/explore/",
    "/builds/1/put-right/order/?quench=40&face=5&ratio=10&intake_relief=60", "/builds/2/put-right/order/",
    "/builds/1/order-sheet/?quench=40&face=5&ratio=10&intake_relief=60", "/builds/3/put-right/order/",
    "/glossary/", "/shelf/cams/", "/builds/1/put-right/cams/", "/builds/2/put-right/cams/", "/builds/3/put-right/cams/",
    "/builds/1/clay/pictures/?cylinder=6", "/builds/1/clay/pictures/1/?cylinder=6", "/builds/1/pictures/", "/card/",
    "/shelf/gauges/",
    "/builds/1/history/", "/builds/2/sheet/", "/builds/1/put-right/room/", "/builds/2/put-right/room/",
]  # fmt: skip
ALIKE = [page for page in PAGES if page.startswith(("/builds/2/", "/builds/3/", "/builds/4/")) and "?" not in page]
"""Pages that differ from another build's in figures and width, not in colours."""
WIDTHS = (1280, 768, 390)
THOROUGH = bool(os.environ.get("MOLE_THOROUGH"))
"""With it axe walks every page at every width in both themes, for twelve minutes: before a release."""


LOOSE_ENDS = """() => {
  const all = (what) => [...document.querySelectorAll(what)];
  const ids = all('[id]').map((one) => one.id);
  const twice = ids.filter((id, at) => ids.indexOf(id) !== at).map((id) => 'twice: ' + id);
  const nowhere = ['for', 'aria-describedby', 'aria-labelledby', 'aria-controls'].flatMap((name) =>
    all(`[${name}]`).flatMap((one) => one.getAttribute(name).split(' ')).filter((id) => id && !ids.includes(id))
      .map((id) => `${name} nowhere: ${id}`));
  const bare = all('table').filter((one) => !one.caption).map((one) => 'no caption: ' + one.className);
  const unscoped = all('th:not([scope])').map((one) => 'no scope: ' + one.textContent.trim());
  return [...twice, ...nowhere, ...bare, ...unscoped];
}"""


def found_by_axe(page, **options):
    found = Axe().run(page, options=options).response["violations"]
    return [(one["id"], one["impact"], one["nodes"][0]["html"][:120]) for one in found]


def in_the_dark(page):
    """What the dim theme alone can spoil: its colours. Everything else is the same page."""
    page.evaluate("document.documentElement.dataset.bsTheme = 'dark'")
    return found_by_axe(page, runOnly=["color-contrast"])


PARTS = 4
"""The pages are walked in so many parts, so that two workers share them."""


@pytest.mark.parametrize("part", range(PARTS))
def test_every_page_is_accessible_in_both_themes_and_fits_every_width(open_page, part):
    page = open_page("/", reduced_motion="reduce")
    troubles = {}
    for address in PAGES[part::PARTS]:
        page.goto(address)
        alike = address in ALIKE and not THOROUGH
        if found := page.evaluate(LOOSE_ENDS) + ([] if alike else found_by_axe(page)):
            troubles[address] = found
        for width in WIDTHS:
            page.set_viewport_size({"width": width, "height": 800})
            if page.evaluate("document.documentElement.scrollWidth") > width:
                troubles[address, width] = "wider than the screen"
            if THOROUGH and (found := found_by_axe(page)):
                troubles[address, width] = found
        page.set_viewport_size({"width": 1280, "height": 800})
        if not alike and (found := in_the_dark(page)):
            troubles[address, "dark"] = found
    assert troubles == {}


def slips_astray(page, width):
    """The marks whose open slip is partly off the screen, or not beside its mark."""
    astray = []
    for slip in page.locator("details.strike:visible").all():
        slip.locator("summary").click()
        mark, form = slip.locator("summary").bounding_box(), slip.locator("form").bounding_box()
        if form["x"] < 0 or form["x"] + form["width"] > width or (width > 760 and abs(form["y"] - mark["y"]) > 60):
            astray.append(slip.locator("summary").get_attribute("aria-label"))
        slip.locator("summary").click()
    return astray


def test_what_is_to_be_struck_out_opens_its_slip_on_the_screen(open_page):
    page = open_page("/builds/2/put-right/?relief_exhaust=0.2", reduced_motion="reduce")
    page.get_by_role("button", name="Make it the plan").first.click()
    seen = 0
    for width in (1280, 390):
        page.set_viewport_size({"width": width, "height": 800})
        for address in ("2/put-right", "2/stack", "3/assembly", "1/deck", "1/clay", "1/cam"):
            page.goto(f"/builds/{address}/")
            seen += page.locator("details.strike:visible").count()
            assert slips_astray(page, width) == [], (address, width)
    assert seen > 60
    page.evaluate("document.querySelectorAll('.strike form').forEach(slip => slip.style.left = '-300px')")
    assert slips_astray(page, width)  # the check can fail


def test_the_sign_in_page_is_accessible_and_the_check_can_fail(open_page):
    page = open_page("/")
    page.context.clear_cookies()
    page.goto("/sign-in/")
    assert found_by_axe(page) == []
    page.evaluate("document.querySelector('main').insertAdjacentHTML('beforeend', '<input>')")
    assert found_by_axe(page)
    page.evaluate("document.querySelector('main p, main').style.color = 'rgb(60, 60, 60)'")
    assert in_the_dark(page)
