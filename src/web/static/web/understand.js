// While a length is being typed, the server's reading of it is shown beside the field, in both units.
(() => {
  const PAUSE = 140;
  const timers = new WeakMap();

  const unitOf = (field) => {
    const form = field.closest("[data-unit-from]");
    const chosen = form?.querySelector(`[name="${form.dataset.unitFrom}"]`);
    return chosen?.value ?? field.closest("[data-unit]")?.dataset.unit ?? "in";
  };

  const echoOf = (field) => (field.closest(".entry, .field, form") ?? field.parentElement).querySelector(".echo");

  const ask = async (field) => {
    const typed = field.value;
    if (!field.isConnected) return; // saved meanwhile, and replaced by a fresh field
    const echo = echoOf(field);
    // The field may have been emptied meanwhile: what was in it has left as a line.
    if (!typed.trim()) { echo.replaceChildren(); return; }
    const query = new URLSearchParams({
      as: field.dataset.understand,
      text: typed,
      unit: unitOf(field),
      sign: field.closest("[data-sign]")?.dataset.sign ?? "",
    });
    if (field.classList.contains("bench-field")) {
      for (const one of document.querySelectorAll("[data-shared]")) query.set(one.name, one.value);
    }
    try {
      const response = await fetch(`/understood/?${query}`, { headers: { "HX-Request": "true" } });
      // A slow answer to an older typing must not overwrite a newer one.
      if (response.ok && field.value === typed) echo.innerHTML = await response.text();
    } catch { /* the server is away; saving says so */ }
  };

  document.addEventListener("input", (event) => {
    const field = event.target.closest?.("[data-understand]");
    if (!field) return;
    clearTimeout(timers.get(field));
    timers.set(field, setTimeout(ask, PAUSE, field));
  });
})();
