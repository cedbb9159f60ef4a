// The dial helper's answer goes into the field last typed in, where one was; else the next empty one.
(() => {
  let last = null;
  document.addEventListener("focusin", (event) => {
    if (event.target.classList?.contains("bench-field")) last = event.target.name;
  });
  document.addEventListener("click", (event) => {
    const put = event.target.closest?.("[data-put]");
    if (!put) return;
    const field = document.querySelector(`.bench-field[name="${last}"]`) ?? document.querySelector('.bench-field:not([data-wants="0"])') ?? document.querySelector(".bench-field");
    if (!field) return;
    field.value = put.dataset.put;
    field.focus();
    field.dispatchEvent(new Event("input", { bubbles: true }));
  });
})();
