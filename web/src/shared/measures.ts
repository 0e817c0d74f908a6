import type { Family } from "./units";

export const CLOCK_NAMES: Record<string, string> = {
  first_movement: "first movement",
  rollout: "rollout",
  speed: "speed to speed",
};

/** The measure that stands largest on a sheet, by kind of run and unit family. */
export function headline(kind: string, family: Family): string {
  if (kind === "stop") return family === "us" ? "60-0 mph" : "100-0 km/h";
  return family === "us" ? "0-60 mph" : "0-100 km/h";
}

/** Measures named in the other family's unit are left out, but for distances, which both use. */
export function inFamily(name: string, family: Family): boolean {
  return !name.endsWith(family === "us" ? "km/h" : "mph");
}
