// What a gauge sends goes into the field that had the cursor when it was sent, on the page in front; everything else
// waits in the tray. A reading becomes a line like any other, with the token the gauge gave it.
(() => {
  const EVERY = 150; // while this page is the one that is looked at [ms]
  const listening = () => document.querySelector("[data-gauge][data-hears]");
  const token = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
  const post = (address, said) => fetch(address, {
    method: "POST",
    headers: { "X-CSRFToken": token(), "HX-Request": "true" },
    body: new URLSearchParams(said),
  });
  globalThis.benchPost = post; // for a gauge on a cable (serial.js) and the tray (tray.js)

  // Since when the field in hand has had the cursor. Where a reading moved the cursor, every reading after that one is
  // for the next field: six readings in a row land in six fields, however slow the server is.
  let held = null; // { field, since } by our clock [ms], or { field, after } a reading's number
  const fieldInHand = () => (document.hasFocus() && !document.hidden && globalThis.benchEntry?.isBench(document.activeElement) ? document.activeElement : null);
  const hold = (how = { since: Date.now() }) => {
    const field = fieldInHand();
    held = field ? { field, ...how } : null;
  };

  // How far the server's clock is ahead of ours, by the quickest answer yet; half of its way there and back is doubt.
  let ahead = null; // { ms, doubt }
  const timed = async (address, said) => {
    const began = Date.now();
    const answer = await post(address, said);
    const took = Date.now() - began;
    const now = Number(answer.headers.get("X-Now"));
    if (now && (!ahead || took / 2 <= ahead.doubt)) ahead = { ms: now - began - took / 2, doubt: took / 2 };
    return answer;
  };
  const heldFor = (one) => {
    if (!one) return {};
    return one.after ? { after: one.after } : { since_ms: Math.round(one.since + ahead.ms + ahead.doubt) };
  };
  for (const event of ["focusin", "focusout"]) document.addEventListener(event, () => hold());
  for (const event of ["focus", "blur"]) addEventListener(event, () => hold());
  document.addEventListener("visibilitychange", () => hold());

  const say = (words) => {
    const place = listening()?.querySelector("[data-gauge-says]");
    if (place) place.textContent = words;
  };

  const showTool = (gauge) => {
    for (const tool of document.querySelectorAll('[data-shared][name="instrument"]')) {
      if ([...tool.options ?? []].some(({ value }) => value === gauge)) tool.value = gauge;
    }
  };

  // It was sent for this field; where the cursor has left it since, the reading still belongs there.
  const take = ({ number, text, gauge, token: its, age_ms: age }, { field }) => {
    showTool(gauge);
    const begun = field.value;
    globalThis.benchEntry.make(field, text, { token: its, typed: Date.now() - age });
    field.value = begun; // what the person has begun to type there stays
    say(`${text} from ${gauge || "the gauge"}`);
    if (begun || fieldInHand() !== field) return;
    globalThis.benchEntry.go(globalThis.benchEntry.next(field));
    hold({ after: number });
  };

  const ask = async () => {
    const here = listening();
    if (!here || document.hidden || !document.hasFocus()) return;
    if (held && !held.field.isConnected) hold();
    if (!ahead) return void await timed(here.dataset.gauge, { hello: "1" });
    const asked = held;
    const answer = await timed(here.dataset.gauge, { in_tray: String(globalThis.gaugeTray.count()), ...heldFor(asked) });
    if (answer.status !== 200) return;
    const { in_tray: inTray, reading } = await answer.json();
    globalThis.gaugeTray.show(inTray);
    // A sheet that lost the field meanwhile leaves the reading to the tray.
    if (!reading || !asked?.field.isConnected) return;
    take(reading, asked);
    await post(here.dataset.gaugeDone, { number: reading.number });
  };

  const beat = async () => {
    try {
      await ask();
    } catch {
      say("No connection: what the gauge sends waits.");
    }
    setTimeout(beat, EVERY);
  };
  let begun = false;
  const begin = () => {
    if (begun || !listening()) return;
    begun = true;
    hold();
    beat();
  };
  addEventListener("DOMContentLoaded", begin);
  addEventListener("gauge:cable", begin);
})();
