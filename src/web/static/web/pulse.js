// Two people at one build: what the other wrote is shown within a few seconds. What is being typed is not touched.
(() => {
  const EVERY = 4000;
  const bench = () => document.getElementById("bench");

  const say = (by) => {
    const place = bench()?.querySelector(".readings");
    if (!place) return;
    place.querySelector(".news")?.remove();
    const said = Object.assign(document.createElement("p"), { className: "said news", role: "status" });
    said.textContent = `${by || "Somebody"} wrote something here.`;
    if (!bench().querySelector(".bench-field")) {
      said.append(" ", Object.assign(document.createElement("a"), { href: location.href, textContent: "Show it" }));
    }
    // Below what is typed: nothing in hand is moved.
    place.append(said);
  };

  const ask = async () => {
    const here = bench();
    if (!here?.dataset.pulse || document.hidden || document.body.classList.contains("lines-wait")) return;
    const was = here.dataset.seen;
    const answer = await fetch(`${here.dataset.pulse}?seen=${encodeURIComponent(was)}`, { headers: { "HX-Request": "true" } });
    // Something was written from here meanwhile: the page is of now already.
    if (answer.status !== 200 || bench()?.dataset.seen !== was || document.body.classList.contains("lines-wait")) return;
    const { seen, by } = await answer.json();
    // The parts of a sheet are brought up to date; a page with a form is left alone, and told.
    if (here.querySelector(".bench-field")) await globalThis.pageParts.refresh();
    else here.dataset.seen = seen;
    say(by);
  };

  const beat = async () => {
    try {
      await ask();
    } catch {
      // The server is away: the next beat asks again.
    }
    setTimeout(beat, EVERY);
  };
  addEventListener("DOMContentLoaded", () => setTimeout(beat, EVERY));
})();
