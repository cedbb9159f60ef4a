// What a gauge sends lands in the field in hand, is saved as typing is, and goes on to the next field.
(() => {
  const EVERY = 150; // while this page is the one that is looked at
  let onItsWay = null;

  // A page listens for a person who has a key for one, or while a gauge is on this machine's cable (serial.js).
  const bench = () => document.querySelector("[data-gauge][data-hears]");
  const token = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
  const post = (address, said) => fetch(address, {
    method: "POST",
    headers: { "X-CSRFToken": token(), "HX-Request": "true" },
    body: new URLSearchParams(said),
  });

  globalThis.benchPost = post; // for a gauge on a cable (serial.js)

  // The field somebody is in, where it is empty; else the first empty one that is asked for.
  const inHand = () => {
    const fields = globalThis.benchEntry?.fields() ?? [];
    const here = document.activeElement;
    return fields.includes(here) ? here : fields.find((field) => "wanted" in field.dataset && !field.value);
  };

  const say = (words) => {
    const place = bench()?.querySelector("[data-gauge-says]");
    if (place) place.textContent = words;
  };

  const take = (field, { number, text, gauge, token: its }) => {
    onItsWay = number;
    for (const tool of document.querySelectorAll('[data-shared][name="instrument"]')) {
      if ([...tool.options ?? []].some(({ value }) => value === gauge)) tool.value = gauge;
    }
    field.focus();
    field.value = text;
    field.dispatchEvent(new Event("input", { bubbles: true }));
    // The token the gauge gave it: whatever is lost on the way, it is written once.
    globalThis.benchEntry.sentBefore.set(field.name, { value: text, token: its });
    field.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true }));
    say(`${text} from ${gauge || "the gauge"}`);
  };

  const ask = async () => {
    const here = bench();
    if (!here || document.hidden || !document.hasFocus() || onItsWay !== null) return;
    const field = inHand();
    if (!field) say("Every field that is asked for is filled: go into one, and the gauge’s next reading lands there.");
    if (!field || field.value.trim() || field.readOnly || globalThis.benchEntry.inFlight.size) return;
    const answer = await post(here.dataset.gauge, {});
    if (answer.status === 200) take(field, await answer.json());
  };

  // Saved or refused, its fate stands at its field.
  document.addEventListener("htmx:after:swap", async (event) => {
    if (onItsWay === null || !event.detail.ctx.benchField) return;
    const number = onItsWay;
    onItsWay = null;
    try {
      await post(bench().dataset.gaugeDone, { number });
    } catch { /* the book knows its token: it is not offered again */ }
  });

  const beat = async () => {
    try {
      await ask();
    } catch {
      say("the server is away; what the gauge sends waits");
    }
    setTimeout(beat, EVERY);
  };
  let begun = false;
  const begin = () => {
    if (begun || !bench()) return;
    begun = true;
    beat();
  };
  addEventListener("DOMContentLoaded", begin);
  addEventListener("gauge:cable", begin);
})();
