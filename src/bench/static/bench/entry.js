// Bench entry: Enter (or leaving a field) saves that one field; Enter then goes to the next empty one.
// While the server is away a field waits, visibly, and is sent once: each saving carries a token.
(() => {
  const RETRY = 3000;
  // What the whole sheet says (the tool in hand, its zero) goes with every field of it.
  const shared = () => ["csrfmiddlewaretoken", ...[...document.querySelectorAll("[data-shared]")].map((one) => one.name)];
  const inFlight = new Map(); // id of a field to what is being saved: { value, token }
  const sentBefore = new Map(); // name of a field to what was on its way when the page was left: { value, token }
  const refused = new Map(); // id of a field to the text the server could not take
  let goOnFrom = null;

  const isBench = (element) => element?.classList?.contains("bench-field");
  const fields = () => [...document.querySelectorAll(".bench-field")];
  const token = () => crypto.randomUUID?.() ?? "10000000-1000-4000-8000-100000000000".replace(/[018]/g, (digit) =>
    (digit ^ (crypto.getRandomValues(new Uint8Array(1))[0] & (15 >> (digit / 4)))).toString(16));

  // htmx takes up its elements a moment after the page is there; what a gauge sends before that is not lost.
  const send = (field) => {
    if (!field.isConnected) return;
    if ("htmxPowered" in field.dataset) htmx.trigger(field, "save");
    else setTimeout(send, 20, field);
  };

  const save = (field, { goOn }) => {
    if (goOn) goOnFrom = fields().indexOf(field);
    if (inFlight.has(field.id)) return; // already on its way, or waiting
    // Whether it arrived is not known: sent again with the token it had, it is written once.
    const before = sentBefore.get(field.name);
    inFlight.set(field.id, before?.value === field.value ? before : { value: field.value, token: token() });
    sentBefore.delete(field.name);
    field.readOnly = true; // what is being saved is not typed over
    field.classList.add("saving");
    send(field);
  };

  const focusNext = (from) => {
    const empty = (field) => "wanted" in field.dataset && !field.value;
    const all = fields();
    const next = all.slice(from).find(empty) ?? all.slice(0, from).find(empty) ?? (from && document.querySelector(".following a, [data-next]"));
    if (!next) return;
    next.focus();
    next.select?.();
  };

  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (event.key !== "Enter" || !isBench(field)) return;
    event.preventDefault();
    if (field.value.trim()) save(field, { goOn: true });
    else focusNext(fields().indexOf(field) + 1);
  });

  document.addEventListener("focusout", (event) => {
    const field = event.target;
    if (isBench(field) && field.value.trim() && field.value !== refused.get(field.id)) save(field, { goOn: false });
  });

  // A field's form holds the whole sheet, for browsers without script; here one field is sent by itself.
  document.addEventListener("htmx:config:request", (event) => {
    const { ctx } = event.detail;
    const field = ctx.sourceElement;
    if (!isBench(field)) return;
    const kept = shared();
    for (const name of [...ctx.request.body.keys()]) {
      if (name !== field.name && !kept.includes(name)) ctx.request.body.delete(name);
    }
    const saving = inFlight.get(field.id);
    // Signed in again in another tab, the browser has another token than the page was made with.
    const fresh = document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1];
    if (fresh) ctx.request.body.set("csrfmiddlewaretoken", fresh);
    ctx.request.body.set(field.name, saving.value);
    ctx.request.body.set("token", saving.token);
    ctx.benchField = field.id;
  });

  const AWAY = "waiting for the server; not saved yet";
  const SIGNED_OUT = "signed out; not saved yet. Sign in again in another tab, and it is sent";
  const waitAndSendAgain = (event, words = AWAY) => {
    const field = document.getElementById(event.detail?.ctx?.benchField ?? "");
    if (!field) return;
    field.classList.add("waiting");
    const echo = field.parentElement.querySelector(".echo");
    echo.textContent = words;
    if (words === SIGNED_OUT) {
      const link = Object.assign(document.createElement("a"), { href: "/sign-in/", target: "_blank", textContent: "Sign in" });
      link.rel = "noopener";
      echo.append(" ", link);
    }
    setTimeout(send, RETRY, field);
  };
  // What the server did not take or refuse is still to be sent.
  const isOpen = (status) => status >= 500 || status === 401;
  document.addEventListener("htmx:error", (event) => waitAndSendAgain(event));
  document.addEventListener("htmx:response:error", (event) => {
    const { status } = event.detail.ctx.response;
    if (isOpen(status)) waitAndSendAgain(event, status === 401 ? SIGNED_OUT : AWAY);
  });

  // What is typed, refused or on its way in another field stays as it is while an answer is put in place.
  document.addEventListener("htmx:before:swap", (event) => {
    const { benchField, response } = event.detail.ctx;
    if (benchField && !isOpen(response.status)) {
      const { value } = inFlight.get(benchField);
      inFlight.delete(benchField);
      refused.set(benchField, value);
    }
    for (const field of fields()) {
      field.closest(".entry").classList.toggle("kept", Boolean(field.value) && field.id !== benchField);
    }
    for (const open of document.querySelectorAll(".strike")) {
      open.classList.toggle("kept", open.open && !open.contains(event.detail.ctx.sourceElement));
    }
  });

  // Saved fields come back under a new id; one that is still there was not taken, and says why.
  document.addEventListener("htmx:after:swap", (event) => {
    const { benchField, response } = event.detail.ctx;
    if (!benchField || isOpen(response.status)) return;
    const field = document.getElementById(benchField);
    if (field) {
      field.readOnly = false;
      field.classList.remove("saving", "waiting");
    }
    if (goOnFrom === null) return;
    if (field) field.select();
    else focusNext(goOnFrom);
    goOnFrom = null;
  });

  globalThis.benchEntry = { fields, inFlight, sentBefore }; // for what outlives a reload (outlives.js)

  addEventListener("beforeunload", (event) => {
    if (inFlight.size) event.preventDefault();
  });

  document.addEventListener("DOMContentLoaded", () => {
    if (!location.hash && matchMedia("(min-width: 900px)").matches) focusNext(0);
  });
})();
