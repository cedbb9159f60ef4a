// A button that books a result waits while the result is being worked out again: what is booked is what is shown.
(() => {
  const BUSY = "working-out";
  // How often each form has asked; the button waits for the answer to the last question, not to an earlier one.
  const asked = new WeakMap();
  const times = (form) => asked.get(form) ?? 0;
  const set = (form, busy) => {
    form.classList.toggle(BUSY, busy);
    for (const button of document.querySelectorAll("[data-books]")) {
      if (busy) button.setAttribute("aria-busy", "true");
      else button.removeAttribute("aria-busy");
      button.disabled = busy;
    }
  };
  const asks = (form) => {
    asked.set(form, times(form) + 1);
    set(form, true);
  };
  const live = (target) => target.closest?.("form[hx-get], form[data-live]");
  const formOf = (event) => event.detail?.ctx?.sourceElement?.closest?.("form");

  for (const name of ["input", "change"]) {
    document.addEventListener(name, ({ target }) => {
      const form = live(target);
      // A name, or where a reading goes, changes no result.
      if (form && !("aside" in target.dataset)) asks(form);
    });
  }
  document.addEventListener("live:asks", ({ target }) => asks(target));
  document.addEventListener("htmx:config:request", (event) => {
    const form = formOf(event);
    if (form) event.detail.ctx.asked = times(form);
  });
  for (const name of ["htmx:after:swap", "htmx:error", "htmx:response:error"]) {
    document.addEventListener(name, (event) => {
      const form = formOf(event);
      if (form && event.detail.ctx.asked === times(form)) set(form, false);
    });
  }
})();
