/**
 * Asks for what the page of this address shows first, while the browser is still busy with the scripts that draw it.
 * A script of its own that runs before them; `api/client.ts` takes an answer that was asked for here.
 */

declare global {
  interface Window {
    /** Answers that are on their way, by address. */
    askedEarly?: Map<string, Promise<Response>>;
  }
}

const API = "/api/v1";
const CARS = `${API}/cars/?page_size=500`;

/** What the pages of a list ask for, by their address. */
const BY_ADDRESS: Record<string, string> = {
  "/": "/home/",
  "/courses": "/courses/?page_size=500",
  "/plans": "/plans/?page_size=200",
  "/logs": "/logs/?page=1",
  "/studies": "/studies/?page_size=500",
  "/compare": "/comparisons/?page_size=200",
};

/** The requests of an address, as the pages write them. */
export function requestsOf(path: string, search: string): string[] {
  const list = BY_ADDRESS[path];
  if (list) return [API + list, CARS];
  if (path === "/runs") {
    const asked = [...new URLSearchParams(search)].map(
      ([name, value]) => `${name}=${encodeURIComponent(value)}`,
    );
    return [`${API}/runs/${asked.length ? `?${asked.join("&")}` : ""}`, CARS];
  }
  const one = /^\/(cars|runs|logs|compare)\/(\d+)$/.exec(path);
  if (one?.[1] === "cars")
    return [CARS, `${API}/cars/${one[2]}/battery-model/`, `${API}/plans/reminders/?car=${one[2]}`];
  if (one?.[1] === "compare") return [`${API}/comparisons/${one[2]}/`, CARS];
  if (one?.[1] === "runs")
    return ["", "curve/", "power/", "beside/"].map((part) => `${API}/runs/${one[2]}/${part}`).concat(CARS);
  if (one) return [`${API}/${one[1]}/${one[2]}/`, CARS];
  return [CARS];
}

/** The whole of an answer, so that nothing of it is left on its way where no page takes it. */
async function asked(address: string): Promise<Response> {
  const answer = await fetch(address, { headers: { Accept: "application/json" } });
  return new Response(await answer.blob(), answer);
}

if (typeof window !== "undefined")
  window.askedEarly = new Map(
    requestsOf(window.location.pathname, window.location.search).map((address) => {
      const answer = asked(address);
      answer.catch(() => undefined); // without a network the page that needs it says so
      return [address, answer];
    }),
  );
