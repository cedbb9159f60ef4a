// Light or dim: what the person chose last, else what the machine prefers. Loaded first, so nothing flashes.
(() => {
  const root = document.documentElement;
  root.classList.add("js"); // what folds away on a phone can be opened again
  const kept = () => { try { return localStorage.getItem("theme"); } catch { return null; } };
  const prefers = matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
  root.dataset.bsTheme = "themeSaid" in root.dataset ? root.dataset.bsTheme : kept() ?? prefers;

  document.addEventListener("click", (event) => {
    if (!event.target.closest?.("[data-theme-switch]")) return;
    root.dataset.bsTheme = root.dataset.bsTheme === "dark" ? "light" : "dark";
    try { localStorage.setItem("theme", root.dataset.bsTheme); } catch { /* private window: for this page only */ }
    show();
  });

  const show = () => {
    const dark = root.dataset.bsTheme === "dark";
    document.querySelectorAll("[data-theme-switch]").forEach((button) => {
      button.textContent = dark ? "light theme" : "dark theme";
    });
  };
  document.addEventListener("DOMContentLoaded", show);
})();
