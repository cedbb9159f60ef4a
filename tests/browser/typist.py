"""A robot that types readings as a quick builder does, and notes where.

It knows which field it went into by itself, or which one Enter put it in; it never asks the application what became of
a line. Beside it the page is watched: no field may change but by a key, no cursor may move but by a key or a click.
"""

import random
from dataclasses import dataclass, field
from typing import Any

from tests.browser import texts

KEYS_A_SECOND = 12
WATCH = """(() => {
  const HAND = ["keydown", "click", "pointerdown", "mousedown", "touchend", "submit"];
  const doing = () => HAND.includes(window.event?.type);
  window.unasked = [];
  const note = (what) => window.unasked.push(what);
  addEventListener("DOMContentLoaded", () => { window.started = true; });
  for (const what of ["keydown", "pointerdown"]) addEventListener(what, () => { window.touched = true; }, true);
  const focus = HTMLElement.prototype.focus;
  HTMLElement.prototype.focus = function (...how) {
    // A page puts the cursor into its first field; once the hand has touched the page, only the hand moves it.
    if (window.touched && !doing()) note(`the cursor went to ${this.name || this.tagName}`);
    return focus.apply(this, how);
  };
  const text = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value");
  Object.defineProperty(HTMLInputElement.prototype, "value", {
    get: text.get,
    set(to) {
      if (this.classList.contains("bench-field") && window.started && !doing() && window.event?.type !== "focusout"
        && window.event?.type !== "DOMContentLoaded") note(`${this.name} was set to “${to}”`);
      text.set.call(this, to);
    },
  });
  const locked = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "readOnly");
  Object.defineProperty(HTMLInputElement.prototype, "readOnly", {
    get: locked.get,
    set(to) { note(`${this.name} was locked`); locked.set.call(this, to); },
  });
})();"""
"""What a page does to fields and cursor that no hand asked for."""


HERE = """() => {
  const here = document.activeElement;
  return here?.classList.contains("bench-field") ? here.name : "";
}"""
FIELDS = """() => [...document.querySelectorAll(".bench-field")]
  .filter((one) => one.checkVisibility()).map(({ name }) => name)"""


@dataclass
class Typist:
    """One pair of hands at one page; ``typed`` holds place and text of each entry in order."""

    page: Any
    chance: random.Random
    typed: list[tuple[str, ...]] = field(default_factory=list)
    unasked: list[str] = field(default_factory=list)

    def go(self, address):
        """Open a sheet; what nobody asked for on the one before is kept."""
        self.collect()
        self.page.goto(address)

    def collect(self):
        self.unasked += self.page.evaluate("() => (window.unasked ?? []).splice(0)")

    def here(self):
        """The field that has the cursor, empty for none."""
        return self.page.evaluate(HERE)

    def fields(self):
        """Every field that can be seen."""
        return self.page.evaluate(FIELDS)

    def into(self, name):
        self.page.locator(f".bench-field[name='{name}']").click()

    def line(self):
        """Type one line somewhere on the sheet, and leave its field one way or another."""
        names = self.fields()
        name = self.here()
        if not name or self.chance.random() < 0.4:
            name = self.chance.choice(names)
            # Enter on the link to the next sheet leaves this one: the fields listed may be those of the sheet before.
            while not self.page.locator(f".bench-field[name='{name}']").count():
                names = self.fields()
                name = self.chance.choice(names)
            self.into(name)
        text = texts.for_field(name, self.chance)
        address = self.page.evaluate("() => document.getElementById('bench').dataset.page")
        self.page.keyboard.type(text, delay=1000 / KEYS_A_SECOND)
        how = self.chance.random()
        if how < 0.8:
            self.page.keyboard.press("Enter")
        elif how < 0.9:
            self.page.keyboard.press("Tab")
        else:
            self.into(self.chance.choice([one for one in names if one != name]))
        self.typed.append(texts.typed_at(address, name, text))

    def until_sent(self):
        """Wait until every line has its answer; none may have been refused."""
        self.page.wait_for_function("() => lineStore.waiting().length === 0")
        assert self.page.evaluate("() => lineStore.refused().map(({ text, why }) => `${text}: ${why}`)") == []
        self.collect()
