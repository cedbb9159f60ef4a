// A button fills the fields of its form that it names; what else was typed stays.
document.addEventListener("click", (event) => {
  const button = event.target.closest?.("[data-fill]");
  if (!button) return;
  for (const [name, value] of Object.entries(JSON.parse(button.dataset.fill))) {
    const field = button.form.elements[name];
    field.value = value;
    field.dispatchEvent(new Event("input", { bubbles: true }));
  }
});
