import { useMeasure } from "../../shared/useMeasure";

/** Whether a measure is a stop, whose result is a distance. */
export function useIsStop(measure: string | undefined): boolean {
  return useMeasure(measure)?.basis === "stop";
}
