// What an answer changes on a build page: its parts, which hold no fields, and the rows of its sheet. A part that the
// hand is in waits until the hand has left it. The cursor is never moved.
(() => {
  const bench = () => document.getElementById("bench");
  const held = new Map(); // part to the answer that waits for it: [digest, html]
  let asked = 0, shown = 0;

  const token = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
  const has = () => [
    ...[...document.querySelectorAll("[data-part]")].map(({ dataset }) => `${dataset.part}=${held.get(dataset.part)?.[0] ?? dataset.digest}`),
    ...[...document.querySelectorAll("[data-row]")].map(({ dataset }) => `row:${dataset.row}=`),
  ].join(" ");
  const headers = () => ({ "X-CSRFToken": token(), "HX-Request": "true", "X-Parts": "1", ...(has().length < 6000 ? { "X-Has": has() } : {}) });

  const inUse = (part) => part.contains(document.activeElement) || part.querySelector(".strike[open]");
  const openOnes = (part) => [...part.querySelectorAll("details[open] > summary")].map((one) => one.textContent.trim());

  const fill = (part, digest, html) => {
    const open = openOnes(part);
    part.dataset.digest = digest;
    part.innerHTML = html;
    for (const summary of part.querySelectorAll("details > summary")) {
      if (open.includes(summary.textContent.trim()) && !summary.closest(".strike")) summary.parentElement.open = true;
    }
  };

  const release = (part) => {
    const waits = held.get(part.dataset.part);
    if (!waits || inUse(part)) return;
    held.delete(part.dataset.part);
    fill(part, ...waits);
  };
  const releaseAll = () => document.querySelectorAll("[data-part]").forEach(release);
  document.addEventListener("focusout", () => held.size && setTimeout(releaseAll));
  document.addEventListener("toggle", () => held.size && releaseAll(), true);

  // Rows that came are put in where they belong; one that went is taken away unless something stands in it.
  const busy = (row) => row.contains(document.activeElement) || [...row.querySelectorAll(".bench-field")].some(({ value }) => value) || row.querySelector(".line-mark");
  const setRows = (rows) => {
    if (!rows.length) return;
    const every = new Map([...document.querySelectorAll("[data-row]")].map((row) => [row.dataset.row, row]));
    let before = null;
    for (const [name, tone, html] of rows) {
      let row = every.get(name);
      if (!row && html) {
        const made = document.createElement("tbody");
        made.innerHTML = html;
        row = made.firstElementChild;
        if (before) before.after(row);
        else [...every.values()][0]?.before(row);
      }
      if (!row) continue;
      row.className = tone;
      every.delete(name);
      before = row;
    }
    for (const gone of every.values()) if (!busy(gone)) gone.remove();
  };

  const setFields = (wants) => {
    for (const field of document.querySelectorAll(".bench-field")) {
      if (field.name in wants) field.dataset.wants = wants[field.name];
    }
    const missing = Object.keys(wants).some((name) => !document.querySelector(`.bench-field[name="${CSS.escape(name)}"]`));
    const notice = document.querySelector("[data-other-fields]");
    if (notice) notice.hidden = !missing;
  };

  // The field in hand stays where it is on the screen, whatever grows above it.
  const still = (work) => {
    const field = document.activeElement;
    const before = field?.getBoundingClientRect().top;
    work();
    const moved = field?.isConnected ? field.getBoundingClientRect().top - before : 0;
    if (moved && field.matches?.(".bench-field")) scrollBy({ top: moved, behavior: "instant" });
  };

  // Put an answer's page in place; an older answer than the one shown is left aside. "own": the part that asked for it.
  const apply = (page, number, own = null) => {
    if (!page || number < shown || !bench() || page.address !== bench().dataset.page) return;
    shown = number;
    still(() => {
      setRows(page.rows);
      for (const part of document.querySelectorAll("[data-part]")) {
        const now = page.parts[part.dataset.part];
        if (!now) continue;
        if (part !== own && inUse(part)) held.set(part.dataset.part, now);
        else {
          held.delete(part.dataset.part);
          fill(part, ...now);
        }
      }
      setFields(page.wants);
    });
    bench().dataset.seen = page.seen;
    document.dispatchEvent(new Event("parts:changed"));
    globalThis.lineMarks.show();
  };

  const ask = () => (asked += 1);
  const refresh = async () => {
    const number = ask();
    const answer = await fetch(bench().dataset.page, { headers: headers() });
    if (answer.ok) apply((await answer.json()).page, number);
    return answer.ok;
  };

  // Striking out and taking back are forms within a part: what they answer changes parts like everything else.
  document.addEventListener("submit", async (event) => {
    const form = event.target.closest("form[data-answers]");
    if (!form || !bench()) return;
    event.preventDefault();
    const number = ask();
    const button = form.querySelector("[type=submit]");
    button.disabled = true;
    try {
      const answer = await fetch(bench().dataset.page, { method: "POST", headers: headers(), body: new URLSearchParams(new FormData(form)) });
      if (answer.status === 200 || answer.status === 422) return apply((await answer.json()).page, number, form.closest("[data-part]"));
      form.append(" ", answer.status === 401 ? "You are signed out: sign in in another tab, then press it again." : "That did not work. Reload the page and try again.");
    } catch {
      form.append(" No connection: press it again once there is one.");
    }
    button.disabled = false;
  });

  // Another page of this device had lines of this sheet written.
  globalThis.lineStore.hear((elsewhere) => elsewhere && bench()?.querySelector(".bench-field") && refresh().catch(() => {}));

  globalThis.pageParts = { ask, apply, headers, refresh };
})();
