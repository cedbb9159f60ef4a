"""Every station by keyboard alone: Tab reaches, shows and leaves every control."""

import pytest

pytestmark = pytest.mark.browser

STATIONS = (
    "block", "tdc", "deck", "stack", "volumes", "quench", "mock-up", "cam", "pushrods", "clay", "indicator", "verdict",
    "put-right", "put-right/explore", "before-you-buy", "before-you-buy/cams", "assembly",
)  # fmt: skip
WHAT = "a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex='0']"
MARKED = f"""() => {{
  const all = [...document.querySelectorAll("{WHAT}")].filter((one) => one.checkVisibility() && !one.disabled);
  // Of the boxes of one question only one is stopped at: the arrow keys go on from it.
  const stops = all.filter((one) => one.type !== 'radio' || one.checked);
  stops.forEach((one, at) => {{ one.dataset.stop = at; }});
  return stops.map((one) => one.outerHTML.slice(0, 90));
}}"""
HERE = """() => {
  const one = document.activeElement;
  const style = getComputedStyle(one);
  const seen = style.outlineStyle !== 'none' || style.boxShadow !== 'none';
  return [one.dataset?.stop ?? '', seen, one.outerHTML.slice(0, 90)];
}"""


@pytest.mark.parametrize("part", range(2))
def test_everything_is_reached_by_tab_seen_and_left_again(open_page, part):
    page = open_page("/")
    troubles = {}
    for name in STATIONS[part::2]:
        page.goto(f"/builds/1/{name}/")
        page.evaluate("document.activeElement?.blur()")
        stops = page.evaluate(MARKED)
        reached, unseen = set(), set()
        for _ in range(len(stops) + 5):
            page.keyboard.press("Tab")
            at, seen, html = page.evaluate(HERE)
            if at:
                reached.add(int(at))
                if not seen:
                    unseen.add(html)
        missed = [stops[at] for at in range(len(stops)) if at not in reached]
        if missed or unseen:
            troubles[name] = {"never reached": missed, "not seen": sorted(unseen)}
    assert troubles == {}
