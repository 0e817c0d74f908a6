import { describe, expect, it } from "vitest";

import { askPath, groupOfRuns, isReady, nextName, size, twoGroups, withRuns } from "./ask";

describe("groups of a question", () => {
  it("puts a run into one group and out of all others", () => {
    const groups = withRuns(twoGroups([1, 2, 3], [4]), [2, 4], 1);
    expect(groups.map((group) => group.runs)).toEqual([
      [1, 3],
      [2, 4],
    ]);
  });

  it("takes runs out where they go nowhere", () => {
    expect(withRuns(twoGroups([1, 2], []), [1], null)[0]?.runs).toEqual([2]);
  });

  it("is ready once every group has something", () => {
    const ask = { measure: "0-60 mph", clock: "rollout" as const, quantity: "time" as const, match: false };
    expect(isReady({ ...ask, groups: twoGroups([1], []) })).toBe(false);
    expect(isReady({ ...ask, groups: [groupOfRuns("a", [1])] })).toBe(false);
    const typed = { name: "b", typed_values: [3.9, 4.0], clock: "rollout" as const, source: "a magazine" };
    expect(isReady({ ...ask, groups: [groupOfRuns("a", [1]), typed] })).toBe(true);
    expect(size(typed)).toBe(2);
  });

  it("names a further group by its number", () => {
    expect(nextName(twoGroups([], []))).toBe("group 3");
  });

  it("has an address from which the question can be read again", () => {
    const groups = twoGroups([1], [2]);
    const path = new URL(askPath({ measure: "1/4 mile", groups }), "http://x");
    expect(JSON.parse(path.searchParams.get("ask") ?? "")).toEqual({ measure: "1/4 mile", groups });
  });
});
