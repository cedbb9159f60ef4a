// The tray: what gauges sent while no field had the cursor. The person puts each into a field, or throws it away.
(() => {
  const place = () => document.querySelector("[data-tray]");
  const dialog = () => document.getElementById("tray");
  let known = 0;
  let last = null; // the field that had the cursor last

  document.addEventListener("focusin", ({ target }) => {
    if (globalThis.benchEntry?.isBench(target)) last = target;
  });
  const target = () => (last?.isConnected ? last : globalThis.benchEntry.fields().find((field) => globalThis.benchEntry.wants(field) > 0)) ?? null;

  const show = (count) => {
    known = count;
    if (!place()) return;
    place().hidden = !count;
    place().textContent = `${count} in the tray`;
    if (dialog().open) fill();
  };

  const fill = async () => {
    const answer = await fetch(place().dataset.tray, { headers: { "HX-Request": "true" } });
    if (!answer.ok) return;
    dialog().querySelector("[data-tray-rows]").innerHTML = await answer.text();
    const field = target();
    for (const button of dialog().querySelectorAll("[data-place]")) {
      button.disabled = !field;
      button.textContent = field ? `Put it into ${field.getAttribute("aria-label")}` : "Open a sheet to put it there";
    }
  };

  const finish = async (row) => {
    await globalThis.benchPost(place().dataset.trayDone, { number: row.dataset.reading });
    row.remove();
    show(Math.max(known - 1, 0));
  };

  document.addEventListener("click", async (event) => {
    const on = (name) => event.target.closest?.(`[data-${name}]`);
    if (on("tray") && dialog()) {
      dialog().showModal();
      await fill().catch(() => {});
    } else if (on("tray-close")) dialog().close();
    else if (on("place")) {
      const { text, token, gauge } = on("place").dataset;
      const field = target();
      if (!field) return;
      const begun = field.value;
      const hand = globalThis.benchEntry.hand();
      const known = [...document.querySelectorAll('[data-shared][name="instrument"] option')].some(({ value }) => value === gauge);
      globalThis.benchEntry.make(field, text, { token, hand: known ? { ...hand, instrument: gauge } : hand });
      field.value = begun;
      await finish(on("place").closest("[data-reading]"));
    } else if (on("discard")) await finish(on("discard").closest("[data-reading]"));
    else if (on("gauge-unit")) {
      const { gaugeUnit, gauge } = on("gauge-unit").dataset;
      await globalThis.benchPost(place().dataset.trayUnit, { gauge, unit: gaugeUnit });
      await fill();
    }
  });

  globalThis.gaugeTray = { show, count: () => known };
})();
