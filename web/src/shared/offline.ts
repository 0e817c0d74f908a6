const FILES = "coombe-files"; // as in public/worker.js
const LAST = "coombe-last";

/** Has the strip screen open without a network from now on, where the browser can. */
export function keepForOffline(): void {
  if (!("serviceWorker" in navigator)) return;
  void navigator.serviceWorker.register("/worker.js").then(keepWhatIsLoaded, () => undefined);
}

/** What came before the worker took over is kept here. */
async function keepWhatIsLoaded(): Promise<void> {
  const files = await caches.open(FILES);
  const keep = (address: string) => void files.add(address).catch(() => undefined);
  keep("/");
  new PerformanceObserver((seen) => {
    for (const { name } of seen.getEntries()) {
      if (new URL(name).pathname.startsWith("/static/")) keep(name);
    }
  }).observe({ type: "resource", buffered: true });
}

/** Forgets how the strip was, once somebody logs out. */
export async function forgetLast(): Promise<void> {
  if ("caches" in window) await caches.delete(LAST);
}
