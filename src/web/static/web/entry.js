// Enter, or leaving a field, makes a line of what was typed: it is kept on the device, and the cursor moves on at once.
// The server is never waited for, and none of its answers touches a field or moves the cursor.
(() => {
  const { lineStore } = globalThis;
  const bench = () => document.getElementById("bench");
  const isBench = (element) => element?.classList?.contains("bench-field");
  const fields = () => [...document.querySelectorAll(".bench-field")];
  const echoOf = (field) => field.closest(".entry")?.querySelector(".echo");

  // What the whole sheet says (the tool in hand, its zero) goes with each of its lines, as it is now.
  const hand = () => Object.fromEntries([...document.querySelectorAll("[data-shared]")].map(({ name, value }) => [name, value]));

  const make = (field, text, more = {}) => {
    const { unit, sign, page } = bench().dataset;
    lineStore.add({
      page,
      field: field.name,
      label: field.getAttribute("aria-label") ?? "",
      text: text.trim(),
      hand: hand(),
      mockup: field.dataset.mockup ?? "",
      unit,
      sign,
      ...more,
    });
    field.value = "";
    field.classList.remove("is-invalid");
    field.removeAttribute("aria-invalid");
    echoOf(field)?.replaceChildren();
    dispatchEvent(new Event("lines:send"));
  };

  // How many readings a field still wants: as the last answer said, less those on their way.
  const wants = (field) => Number(field.dataset.wants ?? 0)
    - lineStore.waiting().filter((line) => globalThis.lineMarks.isOf(line, field)).length;
  const empty = (field) => wants(field) > 0 && !field.value;

  // The next field that wants a reading, in the page's order: another than this one, or this one again.
  const after = (from) => {
    const all = fields();
    const at = all.indexOf(from);
    return [...all.slice(at + 1), ...all.slice(0, Math.max(at, 0))].find(empty) ?? null;
  };
  const next = (from) => (from && empty(from) ? from : after(from));

  const go = (to) => {
    to?.focus();
    to?.select?.();
  };

  const enter = (field) => {
    if (field.value.trim()) {
      make(field, field.value);
      go(next(field));
    } else {
      go(after(field) ?? document.querySelector(".following a, [data-next]"));
    }
  };

  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (event.key !== "Enter" || event.isComposing || !isBench(field)) return;
    event.preventDefault();
    enter(field);
  });

  // A window that loses the focus leaves no field: what stands in it waits for the person to come back.
  document.addEventListener("focusout", ({ target }) => {
    if (!isBench(target) || !target.value.trim() || document.activeElement === target) return;
    if (target.getAttribute("aria-invalid") !== "true" || target.value !== target.defaultValue) make(target, target.value);
  });

  // What is typed and has not left its field outlives a reload, for the same person in the same tab.
  const shelf = () => `typed ${document.body.dataset.person} ${location.pathname}${location.search}`;
  addEventListener("pagehide", () => {
    const typed = fields().filter((field) => field.value.trim()).map((field) => [field.name, field.value]);
    if (typed.length) sessionStorage.setItem(shelf(), JSON.stringify(typed));
    else sessionStorage.removeItem(shelf());
  });

  addEventListener("DOMContentLoaded", () => {
    for (const [name, value] of JSON.parse(sessionStorage.getItem(shelf()) ?? "[]")) {
      const field = fields().find((one) => one.name === name && !one.value);
      if (!field) continue;
      field.value = value;
      echoOf(field).textContent = "typed before; Enter writes it";
    }
    sessionStorage.removeItem(shelf());
    if (!location.hash && matchMedia("(min-width: 900px)").matches) {
      go(fields().find(empty) ?? null);
    }
  });

  globalThis.benchEntry = { fields, isBench, make, next, after, wants, hand, go };
})();
