import { describe, expect, it } from "vitest";

import { labelsDown } from "./picture";
import type { StudyChart } from "./queries";

function chart(ends: number[], falling = false): StudyChart {
  return {
    title: "",
    x: { label: "", kind: "plain", unit: "" },
    y: { label: "", kind: "plain", unit: "" },
    names: [],
    falling,
    series: ends.map((end, n) => ({
      name: `${n}`,
      points: [],
      marks: [],
      band: { x: [0, 1], y: falling ? [end, 0] : [0, end], u95: [] },
    })),
  };
}

describe("labelsDown", () => {
  it("moves the lower of two labels that would lie on one another, and no other", () => {
    expect(labelsDown(chart([73, 73.5, 40]))).toEqual([16, 0, 0]);
  });

  it("goes on down where three end together", () => {
    expect(labelsDown(chart([10, 10.1, 10.2]))).toEqual([32, 16, 0]);
  });

  it("leaves labels where they are when their lines end apart along the axis", () => {
    const apart = chart([73, 73.5]);
    const [first] = apart.series;
    if (first?.band) first.band.x = [0, 0.6];
    expect(labelsDown(apart)).toEqual([0, 0]);
  });

  it("looks at the right end, also where the axis falls", () => {
    expect(labelsDown(chart([73, 73.5], true))).toEqual([16, 0]);
  });
});
