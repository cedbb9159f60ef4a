// Where the lines are that left the hand: each at its place, as "being written", "waits" or "not taken" with the
// reason; and how many of them there are, in the header.
(() => {
  const { lineStore } = globalThis;
  const SOON = 400; // an answer that comes within this is not worth a word [ms]
  const sheet = (address) => {
    const { pathname, searchParams } = new URL(address, location.origin);
    return { pathname, cylinder: searchParams.get("cylinder"), valve: searchParams.get("valve") };
  };
  const same = (one, other) => one === null || other === null || one === other;

  const isHere = (line) => {
    const { page } = document.getElementById("bench")?.dataset ?? {};
    if (!page) return false;
    const [its, ours] = [sheet(line.page), sheet(page)];
    return its.pathname === ours.pathname && same(its.cylinder, ours.cylinder) && same(its.valve, ours.valve);
  };
  const isOf = (line, field) => field.name === line.field && (field.dataset.mockup ?? "") === line.mockup && isHere(line);

  const holderOf = (line) => {
    if (!isHere(line)) return null;
    const form = document.querySelector(`form[data-line="${CSS.escape(line.field)}"]`);
    const field = globalThis.benchEntry.fields().find((one) => isOf(line, one));
    return form ?? field?.closest(".entry") ?? document.querySelector(".readings");
  };

  const button = (words, act, line) => {
    const made = Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: words });
    made.addEventListener("click", () => act(line));
    return made;
  };

  // Put a refused line back into its field, with the cursor in it.
  const correct = (line) => {
    const form = document.querySelector(`form[data-line="${CSS.escape(line.field)}"]`);
    const field = globalThis.benchEntry.fields().find((one) => isOf(line, one));
    if (!isHere(line) || !(form ?? field)) return void location.assign(line.page);
    lineStore.forget(line.token);
    if (form) {
      for (const [name, value] of Object.entries(line.hand)) if (form.elements[name]) form.elements[name].value = value;
      return globalThis.benchEntry.go(form.querySelector("input:not([type=hidden])"));
    }
    field.value = line.text;
    globalThis.benchEntry.go(field);
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };

  let state = "writing"; // what the sender last met: "writing", "no connection", "signed out", "busy"
  const AT_PLACE = { writing: "being written", "no connection": "waits: no connection", "signed out": "waits: signed out", busy: "waits: the server is busy" };

  const mark = (line) => {
    const made = document.createElement("span");
    made.className = line.why ? "line-mark refused" : "line-mark";
    made.dataset.token = line.token;
    made.append(Object.assign(document.createElement("b"), { textContent: line.text }), " ");
    made.append(Object.assign(document.createElement("small"), { textContent: line.why ? `not taken: ${line.why}` : AT_PLACE[state] }));
    if (line.why) made.append(" ", button("correct it", correct, line), button("throw it away", ({ token }) => lineStore.forget(token), line));
    return made;
  };

  const showPlaces = () => {
    const before = new Map([...document.querySelectorAll(".line-mark")].map((one) => [one.dataset.token, one]));
    for (const line of lineStore.all()) {
      const was = before.get(line.token);
      before.delete(line.token);
      const holder = holderOf(line);
      if (!holder) was?.remove();
      else if (!was) holder.append(mark(line));
      else if (was.textContent !== mark(line).textContent && !was.contains(document.activeElement)) was.replaceWith(mark(line));
    }
    for (const gone of before.values()) gone.remove();
  };

  const lines = (count) => `${count} ${count === 1 ? "entry" : "entries"}`;
  const WAITS = {
    writing: (count) => `${lines(count)} on the way: not counted yet in what is shown`,
    "no connection": (count) => `No connection: ${lines(count)} ${count === 1 ? "waits" : "wait"} here`,
    "signed out": (count) => `Signed out: ${lines(count)} ${count === 1 ? "waits" : "wait"} here`,
    busy: (count) => `The server is busy: ${lines(count)} ${count === 1 ? "waits" : "wait"} here`,
  };

  const showHeader = () => {
    const place = document.querySelector("[data-line-state]");
    if (!place) return;
    const waiting = lineStore.waiting();
    const told = waiting.length && (state !== "writing" || Date.now() - waiting[0].typed >= SOON);
    if (waiting.length && !told) setTimeout(showHeader, SOON);
    place.querySelector("[data-waiting]").textContent = told ? WAITS[state](waiting.length) : "";
    const link = Object.assign(document.createElement("a"), { href: "/sign-in/", target: "_blank", rel: "noopener", textContent: "Sign in" });
    place.querySelector("[data-sign-in]").replaceChildren(...state === "signed out" ? [link] : []);
    const refused = lineStore.refused().length;
    const goes = place.querySelector("[data-refused]");
    goes.hidden = !refused;
    goes.firstChild.textContent = `${lines(refused)} not taken `;
    document.body.classList.toggle("lines-wait", Boolean(waiting.length));
  };

  const show = () => {
    showPlaces();
    showHeader();
  };
  const first = () => {
    const refused = lineStore.refused();
    const line = refused.find(isHere) ?? refused[0];
    if (line) correct(line);
  };
  document.addEventListener("keydown", (event) => {
    if (event.key !== "F2") return;
    event.preventDefault();
    first();
  });
  document.addEventListener("click", ({ target }) => target.closest?.("[data-refused]") && first());
  addEventListener("lines:state", ({ detail }) => {
    state = detail;
    show();
  });
  lineStore.hear(show);
  addEventListener("DOMContentLoaded", show);
  document.addEventListener("htmx:after:swap", show);

  globalThis.lineMarks = { isHere, isOf, show };
})();
