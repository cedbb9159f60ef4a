// Sends the lines that wait on this device: one page at a time, all that wait for a build in one request, in order.
// What gets no answer is sent again after growing pauses; each line carries a token and is written once.
(() => {
  const { lineStore } = globalThis;
  const MOST_AT_ONCE = 50;
  const PATIENCE = 20000; // an answer that takes longer is asked for again [ms]
  const SHORTEST = 500, LONGEST = 15000; // pauses [ms]
  const TOO_OFTEN = 5; // a line on which the server fails this often is shown to the person
  let pause = SHORTEST, timer = null, sending = false, again = false;
  const failures = new Map(); // token to how often the server failed on this line alone
  let alone = false;

  const state = (words) => dispatchEvent(new CustomEvent("lines:state", { detail: words }));
  const buildOf = ({ page }) => page.match(/^\/builds\/\d+\//)?.[0] ?? "/builds/0/";

  const batch = (waiting) => {
    const build = buildOf(waiting[0]);
    const other = waiting.findIndex((line) => buildOf(line) !== build);
    return waiting.slice(0, Math.min(other < 0 ? MOST_AT_ONCE : other, alone ? 1 : MOST_AT_ONCE));
  };

  const SENT = ["token", "page", "field", "text", "hand", "mockup", "unit", "sign"];
  const body = (lines) => JSON.stringify({
    page: document.getElementById("bench")?.dataset.page ?? "",
    person: document.body.dataset.person,
    entries: lines.map((line) => ({
      ...Object.fromEntries(SENT.map((name) => [name, line[name]])),
      age_ms: Math.max(Date.now() - line.typed, 0),
    })),
  });

  const later = (words) => {
    state(words);
    clearTimeout(timer);
    timer = setTimeout(pump, pause);
    pause = Math.min(2 * pause, LONGEST);
  };

  const fail = async (lines) => {
    alone = true;
    if (lines.length > 1) return;
    const [{ token }] = lines;
    failures.set(token, (failures.get(token) ?? 0) + 1);
    if (failures.get(token) >= TOO_OFTEN) {
      failures.delete(token);
      await lineStore.settle([{ token, why: "the server failed on it. Correct it, or throw it away." }]);
    }
  };

  const GONE = { 403: "you may only read here", 404: "there is no such build in this shop", 413: "it is too long" };
  const refuseAll = (lines, why) => lineStore.settle(lines.map(({ token }) => ({ token, why })));

  // Returns whether to go on with the next lines.
  const sendOnce = async (lines) => {
    const asked = globalThis.pageParts.ask();
    let answer, said;
    try {
      answer = await fetch(`${buildOf(lines[0])}entries/`, {
        method: "POST",
        headers: { ...globalThis.pageParts.headers(), "Content-Type": "application/json" },
        body: body(lines),
        signal: AbortSignal.timeout(PATIENCE),
      });
      said = answer.status === 200 || answer.status === 400 ? await answer.json() : null;
    } catch {
      return later("no connection");
    }
    if (answer.status === 401) return later("signed out");
    if (answer.status >= 500 || answer.status === 429) {
      await fail(lines);
      return later("busy");
    }
    pause = SHORTEST;
    state("writing");
    if (answer.status === 200) {
      alone = false;
      globalThis.pageParts.apply(said.page, asked);
      await lineStore.settle(said.fates);
    } else await refuseAll(lines, said?.why ?? GONE[answer.status] ?? `the server answered ${answer.status}`);
    return true;
  };

  const sendAll = async () => {
    for (;;) {
      const waiting = await lineStore.inOrder();
      if (!waiting.length || !await sendOnce(batch(waiting))) return;
    }
  };

  // All pages of the device take turns, so that lines arrive in the order they were typed.
  const inTurn = (work) => navigator.locks ? navigator.locks.request("mole-lines", work) : work();

  const pump = async () => {
    again = true;
    if (sending) return;
    sending = true;
    clearTimeout(timer);
    try {
      while (again) {
        again = false;
        await inTurn(sendAll);
      }
    } finally {
      sending = false;
    }
  };

  const soon = () => {
    pause = SHORTEST;
    pump();
  };
  addEventListener("lines:send", pump);
  addEventListener("online", soon);
  document.addEventListener("visibilitychange", () => document.hidden || soon());
  if (document.body.dataset.person) lineStore.ready.then(pump);
})();
