// What stands in a field of a sheet and is not saved outlives a reload, for the same person in the same tab.
(() => {
  const { fields, inFlight, sentBefore } = globalThis.benchEntry;
  const shelf = () => `typed ${document.body.dataset.person} ${location.pathname}${location.search}`;
  addEventListener("pagehide", () => {
    const typed = fields().filter((field) => field.value.trim()).map((field) => [field.name, field.value, inFlight.get(field.id)?.token]);
    if (typed.length) sessionStorage.setItem(shelf(), JSON.stringify(typed));
    else sessionStorage.removeItem(shelf());
  });
  addEventListener("DOMContentLoaded", () => {
    const typed = JSON.parse(sessionStorage.getItem(shelf()) ?? "[]");
    sessionStorage.removeItem(shelf());
    for (const [name, value, its] of typed) {
      const field = fields().find((one) => one.name === name && !one.value);
      if (!field) continue;
      field.value = value;
      if (its) sentBefore.set(name, { value, token: its });
      field.parentElement.querySelector(".echo").textContent = "typed before, not saved yet";
    }
  });
})();
