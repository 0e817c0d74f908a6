import { describe, expect, it } from "vitest";

import { together } from "./remedies";

const remedy = (...parts: string[]) => ({ sentence: `${parts.join("; and ")}.`, parts, changes: null });

describe("remedies", () => {
  it("stand under the change that they begin with", () => {
    const found = together([
      remedy("A charger of 7.4 kW at the course", "First run at 10:45"),
      remedy("A charger of 7.4 kW at the course", "Charging from 22:15"),
      remedy("Only 20 min of runs", "First run at 10:45"),
    ]);
    expect(found.map(({ shared }) => shared)).toEqual(["A charger of 7.4 kW at the course", undefined]);
    expect(found[0]?.each.map(({ rest }) => rest)).toEqual(["first run at 10:45", "charging from 22:15"]);
    expect(found[1]?.each[0]?.rest).toBe("Only 20 min of runs; and First run at 10:45.");
  });

  it("of one change are themselves", () => {
    expect(together([remedy("First run at 10:45")])[0]).toMatchObject({ shared: undefined });
  });
});
