// Keeps one page and what it needs on this phone, and shows it where the network gives no page. It touches nothing else: forms go to the
// server or fail, and no page of a workshop is ever kept.
const NAME = `pocket-${KEPT.version}`;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(NAME).then((kept) => kept.addAll([KEPT.page, ...KEPT.assets])).then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  const old = caches.keys().then((names) => Promise.all(names.filter((name) => name !== NAME).map((name) => caches.delete(name))));
  event.waitUntil(old.then(() => self.registration.navigationPreload?.enable()).then(() => self.clients.claim()));
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  if (request.method !== "GET") return;
  if (request.mode === "navigate") event.respondWith(page(event));
  else if (KEPT.assets.includes(new URL(request.url).pathname)) event.respondWith(asset(request));
});

async function page(event) {
  try {
    return (await event.preloadResponse) ?? (await fetch(event.request));
  } catch {
    return (await caches.match(KEPT.page)) ?? Response.error();
  }
}

const asset = async (request) => (await caches.match(request)) ?? fetch(request);
