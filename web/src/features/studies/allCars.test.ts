import { describe, expect, it } from "vitest";

import { columnsOf, factText, matching, measureColumn, sorted } from "./allCars";
import type { AllCarsRow } from "./queries";

function row(car_name: string, mean: number | null, changes: Partial<AllCarsRow> = {}): AllCarsRow {
  const value = { mean: mean ?? 0, u95: null, best: mean ?? 0, n: 1, kind: "time", unit: "s", alike: false };
  return {
    setup: 1,
    setup_name: "Delivered",
    car: 1,
    car_name,
    maker: "",
    model_year: 2025,
    drive_layout: "all",
    body: "sedan",
    software_version: "",
    tires: "winter 18",
    wheel_diameter_in: 19,
    wheel_mass_kg: 24.5,
    test_mass_kg: 2000,
    power_kw: 250,
    mass_per_power_kg_per_kw: 8,
    battery_kwh: 80,
    claims: [],
    values: mean === null ? {} : { "0-60 mph|rollout": value },
    ...changes,
  };
}

const COLUMNS = columnsOf(["0-60 mph|rollout", "model_year"], []);

describe("the table of all cars", () => {
  const rows = [row("slow", 5.2), row("unknown", null), row("quick", 3.9)];

  it("sorts by a measure either way, what has none last", () => {
    const names = (sort: string) => sorted(rows, sort, COLUMNS).map((each) => each.car_name);
    expect(names("0-60 mph|rollout")).toEqual(["quick", "slow", "unknown"]);
    expect(names("-0-60 mph|rollout")).toEqual(["slow", "quick", "unknown"]);
    expect(names("")).toEqual(["slow", "unknown", "quick"]);
  });

  it("finds rows by every word that is typed", () => {
    expect(matching(rows, "quick WINTER").map((each) => each.car_name)).toEqual(["quick"]);
    expect(matching(rows, "summer")).toEqual([]);
    expect(matching(rows, "")).toHaveLength(3);
  });

  it("writes facts in the family's unit", () => {
    const [mass] = columnsOf(["test_mass_kg"], []);
    if (!mass) throw new Error("no column");
    expect(factText(row("one", 4), mass, "metric")).toBe("2000");
    expect(factText(row("one", 4), mass, "us")).toBe("4409"); // 2000 kg over 0.45359237 (NIST SP 811)
    expect(mass.title("us")).toBe("Test mass, lb");
  });

  it("names measures, stops in lengths, and own ones by their unit", () => {
    expect(measureColumn("60-0 mph|speed", []).title("metric")).toBe("60-0 mph, m");
    expect(measureColumn("0-60 mph|first_movement", []).title("us")).toBe("0-60 mph, first movement, s");
    const own = [{ id: 3, name: "Noise", unit: "dB", revision: 1 }];
    expect(measureColumn("own|3", own).title("us")).toBe("Noise, dB");
  });
});
