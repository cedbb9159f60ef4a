// Without a connection: a service worker keeps the pages of the build that is open. Signing out clears them, and asks
// first where lines wait.
(() => {
  const { lineStore } = globalThis;
  const WARMED = "pages kept for later"; // in this session: addresses
  const AFTER = 3000; // once the page is there and quiet [ms]
  const SHEETS = /\/(deck|volumes|cam|pushrods|clay|indicator|tdc)\/$/;

  const warm = (registration) => {
    if (!document.getElementById("bench") || document.hidden || document.body.dataset.keptAt) return;
    const done = new Set(JSON.parse(sessionStorage.getItem(WARMED) ?? "[]"));
    const links = [...document.querySelectorAll(".run a, .columns .cylinders a")].map(({ href }) => href.split("#")[0]);
    const here = location.href.split("#")[0];
    const wanted = [here, ...links.filter((href) => SHEETS.test(new URL(href).pathname))];
    const fresh = [...new Set(wanted)].filter((href) => href === here || !done.has(href));
    registration.active?.postMessage({ warm: fresh });
    sessionStorage.setItem(WARMED, JSON.stringify([...done, ...fresh]));
  };

  const sayKept = () => {
    const at = document.body.dataset.keptAt;
    if (at === undefined) return;
    const words = `No connection: this page is as it was at ${new Date(at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}. `
      + "Readings you type wait here and are sent later. Judging, plans and sheets need the server.";
    document.querySelector("main").prepend(Object.assign(document.createElement("p"), { className: "kept-page", role: "status", textContent: words }));
  };

  addEventListener("DOMContentLoaded", async () => {
    sayKept();
    if (!navigator.serviceWorker || !document.body.dataset.person) return;
    try {
      await navigator.serviceWorker.register("/worker.js");
      const registration = await navigator.serviceWorker.ready;
      setTimeout(warm, AFTER, registration);
    } catch { /* this browser keeps no pages: everything else works */ }
  });

  document.addEventListener("submit", async (event) => {
    const form = event.target.closest("form[data-sign-out]");
    if (!form || form.dataset.asked) return;
    event.preventDefault();
    const count = lineStore.all().length;
    const words = `${count} ${count === 1 ? "entry" : "entries"} on this device ${count === 1 ? "is" : "are"} not in the log. `
      + "Sign out all the same? They stay here, and are sent when you sign in on this device again.";
    if (count && !confirm(words)) return;
    navigator.serviceWorker?.controller?.postMessage({ forget: true });
    await globalThis.caches?.delete("pages");
    sessionStorage.removeItem(WARMED);
    form.dataset.asked = "yes";
    form.submit();
  });
})();
