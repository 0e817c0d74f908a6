import { describe, expect, it } from "vitest";

import type { Run } from "./queries";
import { slipOf } from "./slip";

function measured(name: string, clock: string, time_s: number, speeds: object = {}) {
  return { name, clock, time_s, time_u95_s: 0.01, line_speed_mps: null, trap_speed_mps: null, ...speeds };
}

const RUN = {
  car_name: "Vireo",
  setup_name: "7.2",
  start_local: "2026-05-09 10:00:00 BST",
  course_name: "Brackmoor",
  charge_before_percent: 92,
  battery_temp_before_c: 40,
  outside_temp_c: null,
  wind_mps: null,
  slope_percent: 0,
  drive_mode: "Sport",
  direction: "out",
  peak_acceleration_g: 0.91,
  measured: [
    measured("1/4 mile", "rollout", 11.482, { line_speed_mps: 53.6448, trap_speed_mps: 53.1978 }),
    measured("60 ft", "rollout", 1.702, { line_speed_mps: 17.8816 }),
    measured("60 ft", "first_movement", 1.951),
    measured("0-60 mph", "rollout", 3.412),
  ],
} as unknown as Run;

describe("slipOf", () => {
  it("has the lines in the order of the strip, on both clocks, with the speed there", () => {
    const slip = slipOf(RUN, 250, "us");
    expect(slip.lines.map((line) => line.name)).toEqual(["60 ft", "1/4 mile"]);
    expect(slip.lines[0]).toEqual({
      name: "60 ft",
      rollout: "1.702",
      firstMovement: "1.951",
      speed: "40.0",
      trap: "–",
    });
    expect([slip.lines[1]?.speed, slip.lines[1]?.trap]).toEqual(["120.0", "119.0"]);
    expect(slip.speeds.map((line) => line.name)).toEqual(["0-60 mph"]);
  });

  it("says what was noted, in the family of units, and nothing of what was not", () => {
    const plain = (text: string) => text.replace(/\s/g, " "); // numbers hold on to their units
    const facts = new Map(slipOf(RUN, 304.8, "us").facts.map(([name, value]) => [name, plain(value)]));
    expect(facts.get("battery")).toBe("104 °F");
    expect(facts.get("density altitude")).toBe("1000 ft");
    expect(facts.get("slope")).toBe("0.00 %");
    expect(facts.has("outside")).toBe(false);
  });
});
