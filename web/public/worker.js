// Lets the strip screen open without a network once it has been open: its files, who is logged in, and how it last was.
const FILES = "coombe-files";
const LAST = "coombe-last";
const HASHED = /^\/static\/assets\//;
const KEPT = /^\/api\/v1\/(session|recorders\/\d+\/strip)\/$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const { origin, pathname } = new URL(request.url);
  if (request.method !== "GET" || origin !== self.location.origin) return;
  if (HASHED.test(pathname)) event.respondWith(keptFirst(request));
  else if (request.mode === "navigate") event.respondWith(networkFirst(request, FILES, "/"));
  else if (pathname.startsWith("/static/")) event.respondWith(networkFirst(request, FILES, pathname));
  else if (KEPT.test(pathname)) event.respondWith(networkFirst(request, LAST, pathname));
});

async function keptFirst(request) {
  const files = await caches.open(FILES);
  const kept = await files.match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) await files.put(request, answer.clone());
  return answer;
}

async function networkFirst(request, name, address) {
  const cache = await caches.open(name);
  try {
    const answer = await fetch(request);
    if (answer.ok) await cache.put(address, answer.clone());
    return answer;
  } catch (error) {
    const kept = await cache.match(address);
    if (kept) return kept;
    throw error;
  }
}
