// Sliders and steppers beside the fields of a what-if: they type for you, and the field moves them.
(() => {
  const typed = (field) => parseFloat(field.value.replace("−", "-"));
  const told = (field) => field.dispatchEvent(new Event("input", { bubbles: true }));

  document.addEventListener("input", (event) => {
    const from = event.target;
    if (from.dataset?.slides) {
      const field = document.getElementById(from.dataset.slides);
      // At rest nothing is changed, and the field is empty.
      field.value = from.value === from.dataset.rest ? "" : from.value;
      event.stopPropagation();
      told(field);
      return;
    }
    const slider = from.id && document.querySelector(`[data-slides="${CSS.escape(from.id)}"]`);
    if (slider) slider.value = Number.isNaN(typed(from)) ? slider.dataset.rest : typed(from);
  }, true);

  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-steps]");
    if (!button) return;
    const field = document.getElementById(button.dataset.steps);
    const count = field.options.length;
    field.selectedIndex = (field.selectedIndex + Number(button.dataset.by) + count) % count;
    told(field);
  });
})();
