import { describe, expect, it } from "vitest";

import { together, unused } from "./ask";
import type { StudyAsk } from "./queries";

const VIREO: StudyAsk = {
  kind: "charge sweep",
  measure: "0-60 mph",
  clock: "",
  series: [{ name: "Vireo", car: 1 }],
  left_out: [{ run: 3, reason: "wheel spin" }],
};

describe("together", () => {
  it("lays the series of both beside one another, each with a name of its own", () => {
    const other: StudyAsk = { ...VIREO, series: [{ name: "Vireo", car: 1, setup: 2 }], left_out: [] };
    const both = together(VIREO, other);
    expect(both.series).toEqual([
      { name: "Vireo", car: 1 },
      { name: "Vireo 2", car: 1, setup: 2 },
    ]);
    expect(both.measure).toBe("0-60 mph");
  });

  it("leaves out what either leaves out, once", () => {
    const other: StudyAsk = {
      ...VIREO,
      left_out: [
        { run: 3, reason: "spun" },
        { run: 7, reason: "lifted" },
      ],
    };
    expect(together(VIREO, other).left_out).toEqual([
      { run: 3, reason: "wheel spin" },
      { run: 7, reason: "lifted" },
    ]);
  });

  it("takes no more series than a study may have", () => {
    const many: StudyAsk = {
      ...VIREO,
      series: Array.from({ length: 6 }, (_, car) => ({ name: `Car ${car}`, car })),
    };
    expect(together(many, many).series).toHaveLength(8);
  });
});

describe("unused", () => {
  it("counts on until a name is free", () => {
    expect(
      unused("Vireo", [
        { name: "Vireo", car: 1 },
        { name: "Vireo 2", car: 1 },
      ]),
    ).toBe("Vireo 3");
    expect(unused("Marlet", [{ name: "Vireo", car: 1 }])).toBe("Marlet");
  });
});
