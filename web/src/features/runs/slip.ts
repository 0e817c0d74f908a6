import { fixed, shown, unitOf, withUnit, type Family } from "../../shared/units";
import { toTheMinute } from "../../shared/dates";
import { headline } from "../../shared/measures";
import type { Run } from "./queries";

const LINES = ["60 ft", "330 ft", "1/8 mile", "1000 ft", "1/4 mile"];

/** A line of the strip as the slip has it: both clocks, and the speed there. */
export interface SlipLine {
  name: string;
  rollout: string;
  firstMovement: string;
  speed: string;
  trap: string;
}

export interface Slip {
  title: string;
  driven: string;
  unit: string;
  lines: SlipLine[];
  /** Times to a speed, a name and both clocks. */
  speeds: SlipLine[];
  facts: [string, string][];
}

/** What a run's slip says; lines that it did not reach are left out. */
export function slipOf(run: Run, densityAltitude_m: number | null, family: Family): Slip {
  const unit = unitOf("speed", family);
  const of = (name: string, clock: string) =>
    run.measured.find((row) => row.name === name && row.clock === clock);
  const line = (name: string): SlipLine[] => {
    const rollout = of(name, "rollout");
    const first = of(name, "first_movement");
    if (!rollout && !first) return [];
    const row = rollout ?? first;
    const speed = (mps: number | null | undefined) => fixed(mps == null ? null : mps / unit.factor, 1);
    return [
      {
        name,
        rollout: fixed(rollout?.time_s ?? null, 3),
        firstMovement: fixed(first?.time_s ?? null, 3),
        speed: speed(row?.line_speed_mps),
        trap: speed(row?.trap_speed_mps),
      },
    ];
  };
  const standing = headline("standing", family);
  return {
    title: `${run.car_name}, ${run.setup_name}`,
    driven: `${toTheMinute(run.start_local)}${run.course_name ? `, ${run.course_name}` : ""}`,
    unit: unit.name,
    lines: LINES.flatMap(line),
    speeds: [
      family === "us" ? "0-30 mph" : "0-50 km/h",
      standing,
      family === "us" ? "0-100 mph" : "0-160 km/h",
    ].flatMap(line),
    facts: factsOf(run, densityAltitude_m, family),
  };
}

function factsOf(run: Run, densityAltitude_m: number | null, family: Family): [string, string][] {
  const all: [string, string | null][] = [
    ["charge", noted(run.charge_before_percent, (value) => withUnit(value, "percent", family))],
    ["battery", noted(run.battery_temp_before_c, (value) => withUnit(value, "temperature", family))],
    ["outside", noted(run.outside_temp_c, (value) => withUnit(value, "temperature", family))],
    ["density altitude", noted(densityAltitude_m, (value) => withUnit(value, "distance", family, 0))],
    ["wind", noted(run.wind_mps, (value) => withUnit(value, "speed", family, 0))],
    ["slope", noted(run.slope_percent, (value) => `${fixed(value, 2)} %`)],
    ["drive mode", run.drive_mode || null],
    ["direction", run.direction || null],
    ["peak", noted(run.peak_acceleration_g, (value) => `${fixed(shown(value, "plain", family), 2)} g`)],
  ];
  return all.flatMap(([name, value]) => (value === null ? [] : [[name, value] as [string, string]]));
}

function noted(value: number | null | undefined, say: (value: number) => string): string | null {
  return value === null || value === undefined ? null : say(value);
}
