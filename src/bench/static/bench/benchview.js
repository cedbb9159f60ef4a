// The bench view: one reading at a time, large; it types into the sheet behind it, which saves as it always does.
(() => {
  const view = () => document.getElementById("bench-view");
  const part = (name) => view().querySelector(`[data-bv-${name}]`);
  const all = () => globalThis.benchEntry?.fields() ?? [];
  const free = (field) => !field.value && !field.readOnly;
  let field = null; // the field of the sheet that is typed into
  let saving = null; // its id, and what was understood, while it is on its way
  let says = false;

  const after = (from) => {
    const fields = all();
    const at = fields.indexOf(from);
    const later = [...fields.slice(at + 1), ...fields.slice(0, Math.max(at, 0))];
    return later.find((one) => "wanted" in one.dataset && free(one)) ?? null;
  };

  const say = (words) => {
    if (says && globalThis.speechSynthesis) speechSynthesis.speak(new SpeechSynthesisUtterance(words));
  };

  const show = (next) => {
    field = next;
    part("label").textContent = next.getAttribute("aria-label");
    const input = part("input");
    input.value = next.value;
    input.dataset.understand = next.dataset.understand ?? "";
    view().querySelector(".echo").replaceChildren();
    part("wrong").textContent = next.parentElement.querySelector(".wrong")?.textContent ?? "";
    const then = after(next);
    part("then").textContent = then ? `Then: ${then.getAttribute("aria-label")}` : "The last one that is asked for here.";
    part("daylight").textContent = document.querySelector(".line")?.textContent.replace(/\s+/g, " ").trim() ?? "";
    input.focus();
    input.select();
  };

  const open = () => {
    const fields = all();
    const here = fields.includes(document.activeElement) ? document.activeElement : null;
    const first = here ?? fields.find((one) => "wanted" in one.dataset && free(one)) ?? fields.find(free);
    if (!first || !view()) return;
    const bench = document.getElementById("bench");
    Object.assign(view().dataset, { unit: bench.dataset.unit, sign: bench.dataset.sign });
    // The pad below stands in for a phone's own keys until letters are asked for.
    part("input").inputMode = getComputedStyle(view().querySelector(".bench-view-pad")).display === "none" ? "text" : "none";
    if (!view().open) view().showModal();
    show(first);
  };

  const write = () => {
    const typed = part("input").value.trim();
    if (!field?.isConnected) return open();
    if (!typed) {
      const next = after(field);
      return next ? show(next) : undefined;
    }
    saving = { id: field.id, words: view().querySelector(".echo").textContent.trim() || typed };
    field.value = typed;
    field.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
  };

  document.addEventListener("htmx:after:swap", (event) => {
    if (!saving || event.detail?.ctx?.benchField !== saving.id) return;
    const { id, words } = saving;
    saving = null;
    const refused = document.getElementById(id);
    if (refused) return show(refused);
    say(words);
    const next = all().find((one) => "wanted" in one.dataset && free(one));
    if (next) return show(next);
    part("label").textContent = "Nothing more is asked for here.";
    part("then").textContent = `Saved: ${words}`;
    part("input").value = "";
    field = null;
  });

  document.addEventListener("click", (event) => {
    const on = (name) => event.target.closest?.(`[data-bv-${name}]`);
    const input = view() && part("input");
    if (event.target.closest?.("[data-bench-view]")) open();
    else if (on("close")) view().close();
    else if (on("write")) write();
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
