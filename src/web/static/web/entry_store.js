// Lines that left the hand and are not in the log yet. They are kept on the device (IndexedDB), so that neither a
// reload nor a closed page loses one, and are shared by all pages of the device.
(() => {
  const person = document.body.dataset.person;
  const JOURNAL = "lines-being-stored"; // until the database has a line, which takes a moment
  const news = new BroadcastChannel("mole-lines");
  const heard = new Set(); // called when lines came, went or were refused; told whether another page did it
  let lines = []; // this person's, in the order they were typed
  const storing = new Set();

  const read = (text) => {
    try {
      return JSON.parse(text) ?? {};
    } catch {
      return {};
    }
  };
  const journal = (change) => {
    const kept = read(localStorage.getItem(JOURNAL));
    change(kept);
    localStorage.setItem(JOURNAL, JSON.stringify(kept));
  };

  const database = idb.openDB("astute-mole", 1, {
    upgrade(fresh) {
      fresh.createObjectStore("lines", { keyPath: "seq", autoIncrement: true }).createIndex("token", "token", { unique: true });
    },
  });
  // Where a browser keeps no database (a private window), lines live as long as the page.
  database.catch(() => {});

  const tell = (elsewhere = false) => heard.forEach((hear) => hear(elsewhere));
  const changed = () => {
    tell();
    news.postMessage(person);
  };

  const put = async (line) => {
    const db = await database;
    const tx = db.transaction("lines", "readwrite");
    const known = await tx.store.index("token").get(line.token);
    if (known) line.seq = known.seq;
    else line.seq = await tx.store.add({ ...line });
    await tx.done;
    journal((kept) => delete kept[line.token]);
  };

  const store = (line) => {
    journal((kept) => { kept[line.token] = line; });
    const done = put(line).catch(() => {}).finally(() => storing.delete(done));
    storing.add(done);
  };

  const load = async () => {
    const left = read(localStorage.getItem(JOURNAL));
    for (const line of Object.values(left)) await put(line).catch(() => {});
    const db = await database.catch(() => null);
    if (!db) return;
    const kept = (await db.getAll("lines")).filter((line) => line.person === person);
    const tokens = new Set(kept.map((line) => line.token));
    const here = lines.filter((line) => !tokens.has(line.token) && line.seq === undefined);
    lines = [...kept, ...here];
  };

  const change = async (line, how) => {
    Object.assign(line, how);
    const db = await database.catch(() => null);
    if (db && line.seq !== undefined) await db.put("lines", { ...line });
  };

  const uuid = () => crypto.randomUUID?.() ?? "10000000-1000-4000-8000-100000000000".replace(/[018]/g, (digit) =>
    (digit ^ (crypto.getRandomValues(new Uint8Array(1))[0] & (15 >> (digit / 4)))).toString(16));

  globalThis.lineStore = {
    ready: load().then(() => tell()),
    uuid,
    hear: (hearer) => heard.add(hearer),
    all: () => lines,
    waiting: () => lines.filter((line) => !line.why),
    refused: () => lines.filter((line) => line.why),

    // Take a line as it leaves the hand; it is shown and kept before this returns.
    add(line) {
      const taken = { token: uuid(), person, typed: Date.now(), ...line };
      if (lines.some(({ token }) => token === taken.token)) return;
      lines.push(taken);
      store(taken);
      changed();
    },

    // All pages' lines in the order they were typed, once the device has them.
    async inOrder() {
      await Promise.all(storing);
      await load();
      return this.waiting();
    },

    // What the server said of some lines: [{ token, why }], why empty where one was written.
    async settle(fates) {
      const said = new Map(fates.map(({ token, why }) => [token, why]));
      for (const line of lines.filter(({ token }) => said.get(token))) await change(line, { why: said.get(line.token) });
      await this.forget(...fates.filter(({ why }) => !why).map(({ token }) => token));
    },

    async forget(...tokens) {
      const gone = lines.filter(({ token }) => tokens.includes(token));
      lines = lines.filter((line) => !gone.includes(line));
      changed();
      const db = await database.catch(() => null);
      for (const { seq } of gone) if (db && seq !== undefined) await db.delete("lines", seq);
      journal((kept) => tokens.forEach((token) => delete kept[token]));
      news.postMessage(person);
    },

    // Every entry on this device, of any person: signing out asks about them.
    async onDevice() {
      const db = await database.catch(() => null);
      return db ? db.getAll("lines") : lines;
    },
  };

  news.addEventListener("message", async ({ data }) => {
    if (data !== person) return;
    await load();
    tell(true);
  });
})();
