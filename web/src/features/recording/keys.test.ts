import "fake-indexeddb/auto";
import { IDBFactory } from "fake-indexeddb";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { api, ApiError } from "../../api/client";
import { KeyQueue, type Key } from "./keys";

const KEEP = { action: "keep" as const, run: 7, changes: {} };
const post = vi.spyOn(api, "POST");

/** What the server answers, one after the other; a number is a refusal with that status. */
function server(...answers: (number | object)[]) {
  post.mockReset();
  for (const answer of answers) {
    if (typeof answer === "number")
      post.mockRejectedValueOnce(new ApiError(answer, { detail: `refused ${answer}` }));
    else post.mockResolvedValueOnce({ data: answer } as never);
  }
}

/** The bodies of all requests, in order. */
function bodies(): Key[] {
  return post.mock.calls.map((call) => (call as unknown as [string, { body: Key }])[1].body);
}

function sent(): (number | null | undefined)[] {
  return bodies().map(({ run }) => run);
}

describe("keys of the strip screen", () => {
  let queue: KeyQueue;
  let waiting: number;
  let refused: string[];

  beforeEach(() => {
    globalThis.indexedDB = new IDBFactory();
    queue = new KeyQueue(1);
    waiting = 0;
    refused = [];
    queue.when({ waiting: (keys) => (waiting = keys.length), refused: (why) => refused.push(why) });
  });

  it("sends a key once and forgets it", async () => {
    server({});
    await queue.press(KEEP);
    await queue.send();
    expect(sent()).toEqual([7]);
    expect(waiting).toBe(0);
  });

  it.each([0, 403, 429, 503])("keeps what the server can't take now (%d), in its order", async (status) => {
    server(status, status, {}, {});
    await queue.press(KEEP);
    await queue.press({ ...KEEP, run: 8 });
    expect(waiting).toBe(2);
    await queue.send();
    expect(sent().slice(-2)).toEqual([7, 8]);
    expect([waiting, refused]).toEqual([0, []]);
  });

  it("has one id for a key, however often it is sent", async () => {
    server(503, {});
    await queue.press(KEEP);
    await queue.send();
    const ids = bodies().map(({ id }) => id);
    expect(new Set(ids).size).toBe(1);
    expect(ids).toHaveLength(2);
  });

  it("drops a key that is refused for good, and says why", async () => {
    server(400);
    await queue.press(KEEP);
    expect([waiting, refused]).toEqual([0, ["refused 400"]]);
  });

  it("sets a key aside on which the server fails five times, so that it holds back none behind it", async () => {
    server(500, 500, 500, 500, 500, {});
    await queue.press(KEEP);
    for (let time = 0; time < 3; time++) await queue.send();
    expect(waiting).toBe(1);
    await queue.press({ ...KEEP, run: 8 });
    expect(sent()).toEqual([7, 7, 7, 7, 7, 8]);
    expect(waiting).toBe(0);
  });

  it("sends only the keys of its own recorder", async () => {
    server(503, {});
    await new KeyQueue(2).press({ ...KEEP, run: 9 });
    await queue.press(KEEP);
    expect(sent()).toEqual([9, 7]);
    await queue.send();
    expect(post).toHaveBeenCalledTimes(2);
  });
});
