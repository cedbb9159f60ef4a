// The bench view: one reading at a time, large; what is typed leaves as a line of the sheet behind it.
(() => {
  const { lineStore } = globalThis;
  const view = () => document.getElementById("bench-view");
  const part = (name) => view().querySelector(`[data-bv-${name}]`);
  const entry = () => globalThis.benchEntry;
  let field = null; // the field of the sheet that is typed for
  let says = false;

  const say = (words) => {
    if (says && globalThis.speechSynthesis) speechSynthesis.speak(new SpeechSynthesisUtterance(words));
  };

  const showMargin = () => {
    part("margin").textContent = document.querySelector(".line")?.textContent.replace(/\s+/g, " ").trim() ?? "";
  };

  const show = (next, text = next.value) => {
    field = next;
    part("label").textContent = next.getAttribute("aria-label");
    const input = part("input");
    input.value = text;
    input.dataset.understand = next.dataset.understand ?? "";
    view().querySelector(".echo").replaceChildren();
    const again = entry().wants(next) > 1;
    const then = again ? next : entry().after(next);
    part("then").textContent = then ? `Then: ${again ? "the same again" : then.getAttribute("aria-label")}` : "The last one that is asked for here.";
    showMargin();
    input.focus();
    input.select();
  };

  const open = () => {
    const fields = entry().fields();
    const here = fields.includes(document.activeElement) ? document.activeElement : null;
    const first = here ?? fields.find((one) => entry().wants(one) > 0 && !one.value) ?? fields.find((one) => !one.value);
    if (!first || !view()) return;
    const bench = document.getElementById("bench");
    Object.assign(view().dataset, { unit: bench.dataset.unit, sign: bench.dataset.sign });
    // The pad below stands in for a phone's own keys until letters are asked for.
    part("input").inputMode = getComputedStyle(view().querySelector(".bench-view-pad")).display === "none" ? "text" : "none";
    if (!view().open) view().showModal();
    show(first);
    tellRefused();
  };

  const write = () => {
    const typed = part("input").value.trim();
    if (!field?.isConnected) return open();
    if (!typed) {
      const later = entry().after(field);
      return later ? show(later) : undefined;
    }
    const words = view().querySelector(".echo").textContent.trim() || typed;
    field.value = "";
    entry().make(field, typed);
    say(words);
    const next = entry().next(field);
    if (next) return show(next);
    part("label").textContent = `${field.getAttribute("aria-label")}, once more`;
    part("then").textContent = `Written: ${words}. Nothing more is asked for here.`;
    part("input").value = "";
  };

  // A line that was not taken is told of here too: the header is behind this view.
  const refusedHere = () => lineStore.refused().find(globalThis.lineMarks.isHere);
  const tellRefused = () => {
    if (!view()?.open) return;
    const line = refusedHere();
    part("wrong").textContent = line ? `${line.label}: “${line.text}” not taken: ${line.why}` : "";
    part("correct").hidden = !line;
    showMargin();
  };
  const correct = () => {
    const line = refusedHere();
    const its = line && entry().fields().find((one) => globalThis.lineMarks.isOf(line, one));
    if (!its) return;
    lineStore.forget(line.token);
    show(its, line.text);
  };
  lineStore.hear(tellRefused);
  document.addEventListener("parts:changed", () => view()?.open && showMargin());

  document.addEventListener("click", (event) => {
    const on = (name) => event.target.closest?.(`[data-bv-${name}]`);
    const input = view() && part("input");
    if (event.target.closest?.("[data-bench-view]")) open();
    else if (on("close")) view().close();
    else if (on("write")) write();
    else if (on("correct")) correct();
    else if (on("letters")) {
      input.inputMode = "text";
      input.blur();
      input.focus();
    } else if (on("back")) input.value = input.value.slice(0, -1);
    else if (on("key")) input.value += on("key").dataset.bvKey;
    else if (on("say")) {
      says = !says;
      on("say").setAttribute("aria-pressed", String(says));
      say("on");
    }
    if (on("key") || on("back")) input.dispatchEvent(new Event("input", { bubbles: true }));
  });

  document.addEventListener("keydown", (event) => {
    if (event.key === "Enter" && event.target.closest?.("[data-bv-input]")) {
      event.preventDefault();
      write();
    }
  });

  globalThis.openBenchView = open;
})();
