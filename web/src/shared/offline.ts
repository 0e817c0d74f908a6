const FILES = "coombe-files"; // as in public/worker.js
const LAST = "coombe-last";

/** Has the strip screen open without a network from now on, where the browser can. The worker serves that screen alone. */
export function keepForOffline(): void {
  if (!("serviceWorker" in navigator)) return;
  void navigator.serviceWorker
    .register("/worker.js", { scope: "/record" })
    .then(keepWhatIsLoaded, () => undefined);
}

/** What came before the worker took over is kept here. */
async function keepWhatIsLoaded(): Promise<void> {
  if (navigator.serviceWorker.controller) return;
  const files = await caches.open(FILES);
  const loaded = performance.getEntriesByType("resource").map(({ name }) => name);
  const ours = loaded.filter((name) => new URL(name).pathname.startsWith("/static/"));
  await Promise.all(["/", ...new Set(ours)].map((address) => files.add(address).catch(() => undefined)));
}

/** Forgets how the strip was, once somebody logs out. */
export async function forgetLast(): Promise<void> {
  if ("caches" in window) await caches.delete(LAST);
}
