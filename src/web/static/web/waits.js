// A button that books a result waits while the result is being worked out again: what is booked is what is shown.
(() => {
  const BUSY = "working-out";
  const set = (form, busy) => {
    form.classList.toggle(BUSY, busy);
    for (const button of document.querySelectorAll("[data-books]")) {
      if (busy) button.setAttribute("aria-busy", "true");
      else button.removeAttribute("aria-busy");
      button.disabled = busy;
    }
  };
  const live = (target) => target.closest?.("form[hx-get], form[data-live]");

  for (const name of ["input", "change"]) {
    document.addEventListener(name, ({ target }) => {
      const form = live(target);
      // A name, or where a reading goes, changes no result.
      if (form && !("aside" in target.dataset)) set(form, true);
    });
  }
  document.addEventListener("live:asks", ({ target }) => set(target, true));
  for (const name of ["htmx:after:swap", "htmx:error", "htmx:response:error"]) {
    document.addEventListener(name, (event) => {
      const form = event.detail?.ctx?.sourceElement?.closest?.("form");
      if (form) set(form, false);
    });
  }
})();
