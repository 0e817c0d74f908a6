import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf } from "../../shared/units";

const STOP = /^\d+(\.\d+)?-0 /;

/** Whether a measure is a stop, whose result is a distance. */
export function isStop(measure: string): boolean {
  return STOP.test(measure);
}

/** A difference of a measure in its unit: seconds, or a length for a stop. */
export function useAmount(measure: string): (si: number | null | undefined) => string {
  const { family } = usePreferences();
  if (!isStop(measure)) return (seconds) => (seconds == null ? "–" : `${fixed(seconds, 2)} s`);
  const unit = unitOf("distance", family);
  return (metres) => (metres == null ? "–" : `${fixed(shown(metres, "distance", family), 1)} ${unit.name}`);
}
