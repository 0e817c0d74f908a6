import { describe, expect, it } from "vitest";

import { cautionAt } from "./caution";

describe("cautionAt", () => {
  it.each([
    ["/record", "driver never operates"],
    ["/days/3", "driver never operates"],
    ["/plans/new", "room to stop"],
    ["/courses/1", "walk it"],
    ["/cars/2", "high voltage"],
    ["/compare/1", "on a road"],
    ["/", "on a road"],
  ])("says at %s what fits there", (path, words) => {
    expect(cautionAt(path)).toContain(words);
  });
});
