import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { requestsOf } from "./early";

describe("what is asked for early", () => {
  it("is written as the pages write it", () => {
    expect(requestsOf("/runs", "?sort=0-60%20mph|rollout&page=2")[0]).toBe(
      "/api/v1/runs/?sort=0-60%20mph%7Crollout&page=2",
    );
    expect(requestsOf("/runs", "")[0]).toBe("/api/v1/runs/");
    expect(requestsOf("/compare/7", "")[0]).toBe("/api/v1/comparisons/7/");
    expect(requestsOf("/runs/12", "")[0]).toBe("/api/v1/runs/12/");
  });

  it("is the names of the cars where nobody knows more", () => {
    expect(requestsOf("/help", "")).toEqual(["/api/v1/cars/names/"]);
  });
});

describe("a page that was opened here before", () => {
  const kept = new Map<string, string>();
  let asked: string[] = [];
  let leave: () => void = () => undefined;

  /** Opens an address as the browser does: with the module anew, and what it stored before. */
  async function open(pathname: string) {
    vi.resetModules();
    asked = [];
    const location = { pathname, search: "" };
    vi.stubGlobal("window", {
      location,
      addEventListener: (_: string, act: () => void) => (leave = act),
    });
    return { ...(await import("./early")), location };
  }

  function ask(address: string, sent?: unknown): Request {
    return new Request(`http://coombe${address}`, sent ? { method: "POST", body: JSON.stringify(sent) } : {});
  }

  beforeEach(() => {
    vi.useFakeTimers();
    kept.clear();
    vi.stubGlobal("document", { cookie: "csrftoken=t" });
    vi.stubGlobal("localStorage", {
      getItem: (name: string) => kept.get(name) ?? null,
      setItem: (name: string, value: string) => kept.set(name, value),
      removeItem: (name: string) => kept.delete(name),
    });
    vi.stubGlobal("fetch", (address: string, { body }: { body?: string }) => {
      asked.push(body ? `${address} ${body}` : address);
      return Promise.resolve(new Response(`answer to ${address}`));
    });
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("is asked for what it asked then, each answer once", async () => {
    const first = await open("/studies/new");
    expect(await first.takeEarly(ask("/api/v1/measures/"))).toBeUndefined();
    await first.takeEarly(ask("/api/v1/studies/preview/", { kind: "laps" }));
    await first.takeEarly(ask("/api/v1/studies/", { title: "a change is not asked early" }));
    leave();
    const again = await open("/studies/new");
    expect(asked).toEqual(["/api/v1/measures/", '/api/v1/studies/preview/ {"kind":"laps"}']);
    const answer = await again.takeEarly(ask("/api/v1/studies/preview/", { kind: "laps" }));
    expect(await answer?.text()).toBe("answer to /api/v1/studies/preview/");
    expect(await again.takeEarly(ask("/api/v1/studies/preview/", { kind: "laps" }))).toBeUndefined();
  });

  it("is not asked for what was asked on a page that was gone to", async () => {
    const first = await open("/help");
    first.location.pathname = "/runs";
    await first.takeEarly(ask("/api/v1/runs/"));
    leave();
    await open("/help");
    expect(asked).toEqual(["/api/v1/cars/names/"]);
  });

  it("takes no answer of before a change, nor one that waited for long", async () => {
    const early = await open("/help");
    await early.takeEarly(ask("/api/v1/plans/", { question: "?" }));
    expect(await early.takeEarly(ask("/api/v1/cars/?page_size=500"))).toBeUndefined();
    const later = await open("/help");
    vi.advanceTimersByTime(5_000);
    expect(await later.takeEarly(ask("/api/v1/cars/?page_size=500"))).toBeUndefined();
  });

  it("is forgotten by who logs out", async () => {
    const first = await open("/help");
    await first.takeEarly(ask("/api/v1/measures/"));
    leave();
    expect(kept.size).toBe(1);
    first.forgetAsked();
    leave();
    expect(kept.size).toBe(0);
  });
});
