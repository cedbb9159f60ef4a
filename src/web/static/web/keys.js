// Keys for going about without a mouse; none of them act while something is being typed.
(() => {
  const typing = (element) => element?.closest?.("input:not([type=checkbox]), select, textarea");
  const go = (link) => link && location.assign(link.href);
  const stations = () => [...document.querySelectorAll(".run a")];
  const beside = (step) => {
    const links = stations();
    const here = links.findIndex((link) => link.getAttribute("aria-current"));
    return links[here + step];
  };
  const open = () => document.getElementById("keys")?.showModal();

  const actions = {
    "?": open,
    n: () => go(document.querySelector("[data-next]")),
    b: () => globalThis.openBenchView?.(),
    u: () => document.querySelector("[data-undo]")?.click(),
    s: () => go(document.querySelector(".brand")),
    "[": () => go(beside(-1)),
    "]": () => go(beside(1)),
  };

  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && typing(event.target)) event.target.blur();
    // In a field that is still empty there is nothing of its own to take back: the last reading is meant.
    if (event.key === "z" && (event.ctrlKey || event.metaKey) && !event.target.value && event.target.matches?.(".bench-field")) {
      event.preventDefault();
      actions.u();
    }
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    const act = actions[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-keys-open]")) open();
    const unfolds = event.target.closest?.("[data-unfolds]");
    if (unfolds) {
      const shown = document.getElementById(unfolds.dataset.unfolds).classList.toggle("unfolded");
      unfolds.setAttribute("aria-expanded", String(shown));
    }
  });
})();
