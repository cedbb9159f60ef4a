// On the page without a connection: the pages of the build that are kept on this device.
(async () => {
  const cache = await caches.open("pages");
  const addresses = (await cache.keys()).map(({ url }) => new URL(url)).filter(({ pathname }) => pathname.startsWith("/builds/"));
  const place = document.querySelector("[data-kept-pages]");
  for (const address of addresses) {
    const title = (await (await cache.match(address.href)).text()).match(/<title>([^<]*)</)?.[1] ?? address.pathname;
    const cylinder = address.searchParams.get("cylinder");
    const line = document.createElement("li");
    const words = title.replace(" · Astute Mole", "") + (cylinder ? `, cylinder ${cylinder}` : "");
    line.append(Object.assign(document.createElement("a"), { href: address.pathname + address.search, textContent: words }));
    place.querySelector("ul").append(line);
  }
  place.hidden = !addresses.length;
  document.querySelector("[data-kept-none]").hidden = Boolean(addresses.length);
})();
