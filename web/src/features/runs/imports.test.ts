import { afterEach, describe, expect, it, vi } from "vitest";

import { api, ApiError } from "../../api/client";
import { CanceledError, follow, outcome, refused, type Import, type Upload } from "./imports";

const WAITING = { id: 3, state: "waiting", runs_found: 0, runs_timed: 0, refusal: null } as Import;
const LOG = { run_ids: [1, 2], untimed: [], can_log: null } as unknown as NonNullable<Import["log"]>;

afterEach(() => {
  vi.restoreAllMocks();
  vi.useRealTimers();
});

async function followed(
  ...states: Partial<Import>[]
): Promise<{ made: Promise<Import>; reports: Partial<Upload>[] }> {
  vi.useFakeTimers();
  const get = vi.spyOn(api, "GET");
  for (const state of states) get.mockResolvedValueOnce({ data: { ...WAITING, ...state } } as never);
  const reports: Partial<Upload>[] = [];
  const made = follow(WAITING, (change) => reports.push(change), new AbortController().signal);
  made.catch(() => undefined);
  await vi.runAllTimersAsync();
  return { made, reports };
}

describe("an import", () => {
  it("is followed until it is done, run by run", async () => {
    const timing = { state: "timing" as const, runs_found: 2 };
    const { made, reports } = await followed({ ...timing, runs_timed: 1 }, { state: "done", log: LOG });
    expect((await made).state).toBe("done");
    expect(reports.map(({ timed, found }) => [timed, found])).toEqual([
      [0, 0],
      [1, 2],
    ]);
  });

  it("ends in the server's own refusal", async () => {
    const refusal = {
      status: 400,
      detail: "day.nmea: no log",
      code: "invalid",
      errors: { file: ["no log"] },
    };
    const { made } = await followed({ state: "refused", refusal } as never);
    await expect(made).rejects.toThrow("day.nmea: no log");
  });

  it("is canceled on the server too", async () => {
    vi.useFakeTimers();
    const remove = vi.spyOn(api, "DELETE").mockResolvedValue({} as never);
    const controller = new AbortController();
    const made = follow(WAITING, () => undefined, controller.signal);
    made.catch(() => undefined);
    controller.abort();
    await vi.runAllTimersAsync();
    await expect(made).rejects.toBeInstanceOf(CanceledError);
    expect(remove).toHaveBeenCalledOnce();
  });

  it("says what it came to", () => {
    const done = { ...WAITING, state: "done", log: LOG, already: false } as Import;
    expect(outcome(done).message).toBe("2 runs found");
    expect(outcome({ ...done, already: true }).message).toContain("already imported");
    const untimed = [{ kind: "standing", start_s: 1, reason: "too few fixes" }];
    expect(outcome({ ...done, log: { ...LOG, untimed } as never }).message).toContain("too few fixes");
  });

  it("asks for what a refusal lacks", () => {
    expect(refused(new ApiError(400, { detail: "?", errors: { day: ["no date"] } })).undated).toBe(true);
    expect(refused(new ApiError(400, { detail: "?", headings: ["v", "t"] })).headings).toEqual(["v", "t"]);
    expect(refused(new CanceledError()).state).toBe("canceled");
  });
});
