import { describe, expect, it } from "vitest";

import type { RunRow } from "../../runs/queries";
import { askOf, lacking } from "./measure";
import { setupsOf } from "./useMade";

function runs(kind: string, ...ids: number[]): RunRow[] {
  return ids.map((id) => ({ id, kind }) as RunRow);
}

describe("askOf", () => {
  it("waits until both sides have two runs of one kind", () => {
    expect(askOf(runs("standing", 1, 2), runs("standing", 3), "us")).toBeNull();
    expect(askOf(runs("standing", 1, 2), runs("stop", 3, 4), "us")).toBeNull();
  });

  it("asks for launches first, in the family of units, and leaves the stops after them out", () => {
    const before = [...runs("standing", 1, 3), ...runs("stop", 2, 4)];
    const after = [...runs("standing", 5, 7), ...runs("stop", 6, 8)];
    const ask = askOf(before, after, "metric");
    expect(ask?.measure).toBe("0-100 km/h");
    expect(ask?.groups.map((group) => group.runs)).toEqual([
      [1, 3],
      [5, 7],
    ]);
  });

  it("asks for the distance of stops where there are no launches", () => {
    const ask = askOf(runs("stop", 1, 2), runs("stop", 3, 4), "us");
    expect([ask?.measure, ask?.clock, ask?.quantity]).toEqual(["60-0 mph", "speed", "distance"]);
  });
});

describe("lacking", () => {
  it("says which side waits for runs", () => {
    expect(lacking(runs("standing", 1, 2), runs("standing", 3))).toBe(
      "The verdict appears once both sides have two runs: after has 1 of 2.",
    );
    expect(lacking(runs("standing", 1, 2), runs("stop", 3, 4))).toContain("not two of one kind");
  });
});

describe("setupsOf", () => {
  it("finds the setup of the change by its name, and takes the latest other one as before", () => {
    const setups = [{ name: "As it was" }, { name: "7.1" }, { name: "Update 7.2" }];
    const found = setupsOf({ setups } as Parameters<typeof setupsOf>[0], " update 7.2");
    expect([found.before?.name, found.after?.name]).toEqual(["7.1", "Update 7.2"]);
    expect(setupsOf({ setups: [] }, "7.2")).toEqual({ before: undefined, after: undefined });
  });
});
