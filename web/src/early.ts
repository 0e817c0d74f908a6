/**
 * Asks for what the page of this address shows, while the browser is still busy with the scripts that draw it: what the
 * page asked for when it was opened here before, else what its kind of page begins with.
 * A script of its own that runs before them; `api/client.ts` takes an answer that was asked for here.
 */

/** A question that changes nothing: its address, and what is sent with one that is too long for an address. */
export interface Asked {
  address: string;
  sent?: string;
}

const API = "/api/v1";
const CARS = `${API}/cars/?page_size=500`;
const NAMES = `${API}/cars/names/`; // for the frame's choice of a car
const KEPT = "coombe.asked";
const MOST_PAGES = 40;
const MOST_SENT = 4_000; // characters
const OPENING_MS = 4_000; // what is asked later belongs to what somebody does there
const READS = new RegExp(`^${API}/(comparisons/(preview|details)|studies/preview)/$`);
const ELSEWHERE = [`${API}/session/`, `${API}/runs/retiming/`]; // asked for by the frame, early enough

/** What the pages of a list begin with, by their address. */
const BY_ADDRESS: Record<string, string> = {
  "/": "/home/",
  "/courses": "/courses/?page_size=500",
  "/plans": "/plans/?page_size=200",
  "/logs": "/logs/?page=1",
  "/studies": "/studies/?page_size=500",
  "/compare": "/comparisons/?page_size=200",
};

/** The requests of an address that was never opened here, as the pages write them. */
export function requestsOf(path: string, search: string): string[] {
  const list = BY_ADDRESS[path];
  if (list) return [API + list, NAMES];
  if (path === "/runs") {
    const asked = [...new URLSearchParams(search)].map(
      ([name, value]) => `${name}=${encodeURIComponent(value)}`,
    );
    return [`${API}/runs/${asked.length ? `?${asked.join("&")}` : ""}`, CARS, NAMES];
  }
  const one = /^\/(cars|runs|logs|compare)\/(\d+)$/.exec(path);
  if (one?.[1] === "cars")
    return [CARS, `${API}/cars/${one[2]}/battery-model/`, `${API}/plans/reminders/?car=${one[2]}`, NAMES];
  if (one?.[1] === "compare") return [`${API}/comparisons/${one[2]}/`, NAMES];
  if (one?.[1] === "runs")
    return ["", "curve/", "power/", "beside/"].map((part) => `${API}/runs/${one[2]}/${part}`).concat(NAMES);
  if (one) return [`${API}/${one[1]}/${one[2]}/`, NAMES];
  return [NAMES];
}

type Pages = [address: string, asked: Asked[]][];

/** What was asked for on each page that was opened here, the latest first. */
function kept(): Pages {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "[]") as Pages;
  } catch {
    return [];
  }
}

function store(pages: Pages): void {
  try {
    localStorage.setItem(KEPT, JSON.stringify(pages));
  } catch {
    // a browser that stores nothing for us asks when the page does
  }
}

/** The pages with what was asked on one of them now, the latest first. */
function withPage(pages: Pages, address: string, asked: Asked[]): Pages {
  return [[address, asked] as Pages[number], ...pages.filter(([other]) => other !== address)].slice(
    0,
    MOST_PAGES,
  );
}

/** Whoever logs out leaves nothing of what they looked at. */
export function forgetAsked(): void {
  seen = null;
  localStorage.removeItem(KEPT);
}

/** The whole of an answer, so that nothing of it is left on its way where no page takes it. */
async function answerTo({ address, sent }: Asked): Promise<Response> {
  const token = /(?:^|; )csrftoken=([^;]*)/.exec(document.cookie)?.[1] ?? "";
  const answer = await fetch(address, {
    headers: {
      Accept: "application/json",
      ...(sent && { "Content-Type": "application/json", "X-CSRFToken": token }),
    },
    ...(sent && { method: "POST", body: sent }),
  });
  return new Response(await answer.blob(), answer);
}

const answers = new Map<string, Promise<Response>>();
let seen: Asked[] | null = null;
let opened = "";

/** Whether a question is one that the page which was opened begins with. */
function belongsHere({ address, sent = "" }: Asked): boolean {
  return window.location.pathname === opened && sent.length <= MOST_SENT && !ELSEWHERE.includes(address);
}

/** An answer that was asked for while the scripts were read, once; undefined for what was not, and what is to change. */
export async function takeEarly(request: Request): Promise<Response | undefined> {
  const { pathname, search } = new URL(request.url);
  const reads = request.method === "GET" || (request.method === "POST" && READS.test(pathname));
  if (!reads) {
    answers.clear(); // they are of before the change
    return undefined;
  }
  const asked: Asked = { address: pathname + search };
  if (request.method === "POST") asked.sent = await request.clone().text();
  if (belongsHere(asked)) seen?.push(asked);
  const key = JSON.stringify(asked);
  const early = answers.get(key);
  answers.delete(key);
  const answer = await early?.catch(() => undefined); // without a network the page that needs it says so
  return answer?.ok ? answer : undefined;
}

function open(): void {
  const { pathname, search } = window.location;
  const address = pathname + search;
  const before = kept().find(([page]) => page === address)?.[1];
  for (const asked of before ?? requestsOf(pathname, search).map((each): Asked => ({ address: each }))) {
    const answer = answerTo(asked);
    answer.catch(() => undefined);
    answers.set(JSON.stringify(asked), answer);
  }
  opened = pathname;
  seen = [];
  const keep = () => {
    if (seen?.length) store(withPage(kept(), address, seen));
    seen = null;
    answers.clear(); // what nobody took by now would be old when it is asked for
  };
  setTimeout(keep, OPENING_MS);
  window.addEventListener("pagehide", keep);
}

if (typeof window !== "undefined") open();
