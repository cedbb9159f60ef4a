{% load static %}// Keeps styles, scripts and faces, and the last pages of the build that is open, for the person they were made for.
// Readings typed without a connection are kept by the page itself (entry_store.js); judging needs the server.
importScripts(
  "{% static 'vendor/workbox/workbox-core.prod.js' %}",
  "{% static 'vendor/workbox/workbox-routing.prod.js' %}",
  "{% static 'vendor/workbox/workbox-strategies.prod.js' %}",
  "{% static 'vendor/workbox/workbox-expiration.prod.js' %}",
);
const { registerRoute } = workbox.routing;
const { CacheFirst, NetworkFirst } = workbox.strategies;
const { ExpirationPlugin } = workbox.expiration;

const PAGES = "pages", FILES = "files", SHELL = "shell";
const OWNER = "/owner-of-the-pages"; // in the cache of pages: whose they are, and of which build
const NO_CONNECTION = "{% url 'no-connection' %}";
const PATIENCE_S = 8; // a server that says nothing for so long is away
const MOST_PAGES = 60;
const buildOf = (address) => new URL(address).pathname.match(/^\/builds\/(\d+)\//)?.[1] ?? null;

const owner = async (cache) => (await (await cache.match(OWNER))?.text()) ?? "";
// What was asked for before everything was dropped is not kept afterwards.
let generation = 0;
const forget = () => {
  generation += 1;
  return caches.delete(PAGES);
};

// Keep a page where it is one of the person whose pages are kept, else begin again with theirs. One at a time: two that
// begin again at once would throw away each other's.
let turn = Promise.resolve();
const keep = (request, response, begun) => (turn = turn.then(() => begun === generation && keepNow(request, response)).catch(() => {}));
const keepNow = async (request, response) => {
  const its = response.headers.get("X-Owner");
  if (response.redirected || !its || !response.ok) return;
  const whose = `${its} ${buildOf(request.url)}`;
  let cache = await caches.open(PAGES);
  if (await owner(cache) !== whose) {
    await caches.delete(PAGES);
    cache = await caches.open(PAGES);
    await cache.put(OWNER, new Response(whose));
  }
  await cache.put(request.url.split("#")[0], response);
  const keys = await cache.keys();
  for (const old of keys.slice(1, Math.max(keys.length - MOST_PAGES, 1))) await cache.delete(old);
};

// Say on the page that it is a kept one, and of when.
const asKept = async (response) => {
  const text = await response.text();
  const at = response.headers.get("Date") ?? "";
  const headers = new Headers(response.headers);
  headers.delete("Content-Encoding");
  headers.delete("Content-Length");
  return new Response(text.replace("<body ", `<body data-kept-at="${at}" `), { headers });
};

const patiently = (request) => fetch(request, { signal: AbortSignal.timeout(PATIENCE_S * 1000) });

const page = async ({ request, event }) => {
  const begun = generation;
  try {
    const response = await patiently(request);
    // Somebody is signed out: nothing of theirs is shown any more.
    const asksWho = new URL(request.url).pathname === "{% url 'sign-in' %}" && !response.headers.has("X-Owner");
    if (asksWho && response.ok) event.waitUntil(forget());
    else if (buildOf(request.url)) event.waitUntil(keep(request, response.clone(), begun));
    return response;
  } catch {
    const kept = await (await caches.open(PAGES)).match(request.url.split("#")[0]);
    if (kept) return asKept(kept);
    return (await caches.match(NO_CONNECTION)) ?? Response.error();
  }
};

registerRoute(({ request, url }) => request.mode === "navigate" && url.origin === location.origin, page);
const isNamedByContent = ({ url }) => url.pathname.startsWith("/static/") && /\.[0-9a-f]{12}\./.test(url.pathname);
const isFile = ({ url }) => url.pathname.startsWith("/static/");
registerRoute(isNamedByContent, new CacheFirst({ cacheName: FILES, plugins: [new ExpirationPlugin({ maxEntries: 200 })] }));
registerRoute(isFile, new NetworkFirst({ cacheName: FILES }));

// The sheets of the build that is open, one after another while nothing else is done: they open without a connection.
addEventListener("message", (event) => {
  const { data } = event;
  if (data?.forget) event.waitUntil(forget());
  if (!Array.isArray(data?.warm)) return;
  const work = (async () => {
    for (const address of data.warm) {
      const begun = generation;
      const request = new Request(address, { credentials: "same-origin", headers: { Accept: "text/html" } });
      const response = await patiently(request).catch(() => null);
      if (!response) return;
      await keep(request, response, begun);
    }
  })();
  event.waitUntil(work);
});

addEventListener("install", (event) => {
  event.waitUntil(caches.open(SHELL).then((cache) => cache.add(NO_CONNECTION)));
  const its = ["{% static 'web/kept_pages.js' %}", "{% static 'web/tones.css' %}", "{% static 'web/page.css' %}"];
  event.waitUntil(caches.open(FILES).then((cache) => cache.addAll(its)));
  skipWaiting();
});
addEventListener("activate", (event) => event.waitUntil(clients.claim()));
