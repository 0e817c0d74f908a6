import { describe, expect, it } from "vitest";

import {
  digitsBeside,
  digitsFor,
  fieldLabel,
  fixed,
  kindOfField,
  shown,
  toSi,
  typedNumber,
  withUnit,
} from "./units";

describe("units", () => {
  // Exact by definition: NIST Special Publication 811, appendix B.
  it.each([
    [26.8224, "speed", "us", 60],
    [27.77777777777778, "speed", "metric", 100],
    [402.336, "distance", "us", 1320],
    [0, "temperature", "us", 32],
    [100, "temperature", "us", 212],
    [0.45359237, "mass", "us", 1],
    [6.894757293168361, "pressure", "us", 1],
    [1.609344, "odometer", "us", 1],
  ] as const)("shows %d as %s in %s as %d", (si, kind, family, value) => {
    expect(shown(si, kind, family)).toBeCloseTo(value, 9);
  });

  it("gives back what was typed", () => {
    for (const typed of [1, 33.3, 60, 104, -40]) {
      expect(shown(toSi(typed, "temperature", "us"), "temperature", "us")).toBeCloseTo(typed, 9);
      expect(shown(toSi(typed, "pressure", "us"), "pressure", "us")).toBeCloseTo(typed, 9);
    }
  });

  it("has a real minus sign, and none before zero", () => {
    expect(fixed(-1.25, 1)).toBe("−1.3");
    expect(fixed(-0.004, 2)).toBe("0.00");
    expect(fixed(null, 2)).toBe("–");
  });

  it("names the unit beside the number", () => {
    expect(withUnit(26.8224, "speed", "us", 0)).toBe("60\u00a0mph");
    expect(withUnit(undefined, "mass", "us")).toBe("–");
  });

  it("knows a field by the unit that ends its name", () => {
    expect(kindOfField("battery_temp_before_c")).toBe("temperature");
    expect(kindOfField("charge_before_percent")).toBe("percent");
    expect(kindOfField("notes")).toBeNull();
    expect(fieldLabel("tire_pressure_kpa")).toBe("tire pressure");
  });
});

describe("a number with another unit behind it", () => {
  it("is taken in the unit of the page", () => {
    expect(typedNumber("40", "temperature", "us")).toBe(40);
    expect(typedNumber("40 °C", "temperature", "us")).toBeCloseTo(104);
    expect(typedNumber("104f", "temperature", "metric")).toBeCloseTo(40);
    expect(typedNumber("2,9 bar", "pressure", "metric")).toBeCloseTo(290);
    expect(typedNumber("2.9bar", "pressure", "us")).toBeCloseTo(42.06, 2);
    expect(typedNumber("2080 kg", "mass", "us")).toBeCloseTo(4585.6, 1);
    expect(typedNumber("−4", "temperature", "metric")).toBe(-4);
    expect(typedNumber("92 %", "percent", "us")).toBe(92);
  });

  it("is no number where the unit is another kind's, or there is none", () => {
    for (const text of ["40 psi", "forty", "", "4 0"]) {
      expect(typedNumber(text, "temperature", "us")).toBeNaN();
    }
  });
});

describe("digits", () => {
  it("gives an interval two figures, and no number more than four digits", () => {
    expect([0.2, 0.03, 0.0041, 0.00001].map((u95) => digitsFor(u95, 2))).toEqual([2, 3, 4, 4]);
    expect(digitsFor(null, 2)).toBe(2);
  });

  it("adds digits to the usual ones only where the interval would read as zero", () => {
    expect([0.01, 0.005, 0.0049, null].map((u95) => digitsBeside(u95, 2))).toEqual([2, 2, 4, 2]);
  });
});
