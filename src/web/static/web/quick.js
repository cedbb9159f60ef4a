// The address of a quick check holds its fields, so that it can be kept and shared while it is typed.
(() => {
  document.addEventListener("input", (event) => {
    const form = event.target.closest?.(".quick form");
    if (!form) return;
    const said = [...new FormData(form)].filter(([, value]) => value !== "");
    history.replaceState(null, "", `${location.pathname}?${new URLSearchParams(said)}`);
  });

  // What was typed before the page was ready to listen is judged as well.
  addEventListener("load", () => {
    for (const field of document.querySelectorAll(".quick form input:not([type=hidden])")) {
      if (field.value !== field.defaultValue) field.dispatchEvent(new Event("input", { bubbles: true }));
    }
  });
})();
