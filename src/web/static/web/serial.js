// A gauge on a serial cable, read by the browser itself (Web Serial): line by line to the server, which reads it by the
// way that was chosen for this machine and gives it to the page as it gives what a gauge posts. Once, and in order.
(() => {
  const CHOSEN = "gauge-on-cable"; // which way, kept on this machine: { way, name, baud, gauge }
  // What no answer came for yet: kept over a reload of this tab, for the person whose it is.
  const UNSENT = () => `gauge-lines ${document.body.dataset.person}`;
  const AGAIN = 1000;
  const MOST_UNSENT = 200;
  const { serial } = navigator;
  const read = (store, key, other) => {
    try {
      return JSON.parse(store.getItem(key)) ?? other;
    } catch {
      return other;
    }
  };

  // --- On a sheet: listen -----------------------------------------------------------------------
  const here = () => document.querySelector("[data-gauge-line]");
  const say = (words) => {
    const place = here()?.querySelector("[data-cable-says]");
    if (place) place.textContent = words;
  };
  let unsent = [];
  const keep = () => sessionStorage.setItem(UNSENT(), JSON.stringify(unsent));
  let sending = false;

  const send = async () => {
    if (sending) return;
    sending = true;
    while (unsent.length) {
      let answer;
      try {
        const { read: at, ...line } = unsent[0];
        answer = await globalThis.benchPost(here().dataset.gaugeLine, { ...line, age_ms: Math.max(Date.now() - at, 0) });
      } catch { /* away: it waits */ }
      if (answer?.status === 201 || answer?.status === 422) {
        unsent.shift();
        keep();
        const said = await answer.json();
        say(said.refused ? `not taken: ${said.refused}` : `${said.text} came by the cable`);
      } else {
        say(`${unsent.length} from the cable wait${unsent.length === 1 ? "s" : ""} for the server`);
        await new Promise((rest) => setTimeout(rest, AGAIN));
      }
    }
    sending = false;
  };

  const take = (line, chosen) => {
    if (!line.trim()) return;
    if (unsent.length >= MOST_UNSENT) {
      say(`not taken, ${MOST_UNSENT} wait already: ${line.trim().slice(0, 40)}`);
      return;
    }
    unsent.push({ line: line.slice(0, 401), token: crypto.randomUUID(), way: chosen.way, gauge: chosen.gauge, read: Date.now() });
    keep();
    send();
  };

  const listen = async (port, chosen) => {
    await port.open({ baudRate: chosen.baud });
    say(`Listening to ${chosen.name} on its cable.`);
    here().hidden = false;
    here().dataset.hears = "";
    dispatchEvent(new Event("gauge:cable"));
    const reader = port.readable.pipeThrough(new TextDecoderStream()).getReader();
    let rest = "";
    try {
      for (;;) {
        const { value, done } = await reader.read();
        if (done) break;
        const lines = (rest + value).split(/\r\n|\r|\n/);
        rest = lines.pop().slice(-800);
        for (const line of lines) take(line, chosen);
      }
    } catch { /* pulled out: said below */ }
    say("The gauge’s cable is out.");
    await port.close().catch(() => {});
  };

  const begin = async () => {
    if (here() && !unsent.length) {
      // Lines that waited when the page was left are sent, whether the gauge is still there or not.
      unsent = read(sessionStorage, UNSENT(), []);
      if (unsent.length) here().hidden = false;
      send();
    }
    const chosen = read(localStorage, CHOSEN, null);
    if (!serial || !here() || !chosen) return;
    const [port] = await serial.getPorts();
    if (!port) return;
    try {
      await listen(port, chosen);
    } catch {
      say("The gauge’s cable is in use: another page listens to it.");
      here().hidden = false;
    }
  };
  addEventListener("DOMContentLoaded", begin);
  serial?.addEventListener("connect", begin);

  // --- On the page of gauges: choose ------------------------------------------------------------
  addEventListener("DOMContentLoaded", () => {
    const page = document.querySelector("[data-cable-page]");
    if (!page) return;
    const now = page.querySelector("[data-cable-now]");
    const show = () => {
      const chosen = read(localStorage, CHOSEN, null);
      now.textContent = serial
        ? (chosen ? `This machine listens to: ${chosen.name}.` : "This machine listens to no cable.")
        : "This browser cannot read a serial cable. A gauge that posts or types works all the same.";
      page.querySelector("[data-cable-forget]").hidden = !chosen;
      for (const button of page.querySelectorAll("[data-cable]")) button.disabled = !serial;
    };
    page.addEventListener("click", async ({ target }) => {
      if ("cableForget" in target.dataset) localStorage.removeItem(CHOSEN);
      else if ("cable" in target.dataset) {
        try {
          await serial.requestPort();
        } catch {
          return; // nothing was chosen
        }
        const { cable, name, baud } = target.dataset;
        const gauge = page.querySelector("[name=gauge]").value;
        localStorage.setItem(CHOSEN, JSON.stringify({ way: cable, name, baud: Number(baud), gauge }));
      }
      show();
    });
    show();
  });
})();
