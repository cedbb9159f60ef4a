// A form whose fields make one reading together is one line. Enter goes to its next empty field, and then sends it.
(() => {
  const { lineStore } = globalThis;
  const KEPT = ["csrfmiddlewaretoken", "once"];
  const texts = (form) => [...form.querySelectorAll("input:not([type=hidden])")];

  const isWanted = (input) => input.required && !input.value.trim();

  const send = (form) => {
    const { unit, sign, page } = document.getElementById("bench").dataset;
    const said = Object.fromEntries([...new FormData(form)].filter(([name]) => !KEPT.includes(name)));
    const text = form.dataset.lineText.replace(/\{(\w+)\}/g, (_, name) => said[name] ?? "");
    lineStore.add({ page, field: form.dataset.line, label: form.dataset.line, text, hand: said, mockup: "", unit, sign });
    for (const input of texts(form)) {
      input.value = "";
      input.closest(".field")?.querySelector(".echo")?.replaceChildren();
    }
    globalThis.benchEntry.go(texts(form)[0]);
    dispatchEvent(new Event("lines:send"));
  };

  document.addEventListener("submit", (event) => {
    const form = event.target.closest("form[data-line]");
    if (!form) return;
    event.preventDefault();
    const missing = texts(form).find(isWanted);
    if (missing) globalThis.benchEntry.go(missing);
    else send(form);
  });
})();
