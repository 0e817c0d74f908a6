import type { PlanAsk } from "./queries";

/** Kinds of test as the API names them; only the first is called otherwise on screen. */
export const KINDS = ["groups", "charge sweep", "braking series", "roll-ons", "side by side"];

export function kindName(kind: string | undefined): string {
  return kind === undefined || kind === "groups" ? "groups" : kind;
}

/** Whether its groups may be cars of their own. */
export function isOfSeveralCars(kind: string | undefined): boolean {
  return kind === "roll-ons" || kind === "side by side";
}

/** A test of one setup, without groups beside it. */
export function isSingle(kind: string | undefined): boolean {
  return kind === "charge sweep" || kind === "braking series";
}

/** How many groups a kind takes: two lanes, one setup, or up to six. */
export function mostGroups(kind: string | undefined): number {
  if (isSingle(kind)) return 1;
  return kind === "side by side" ? 2 : 6;
}

/** What a kind of test begins with, so that nothing of the kind before stays that does not fit. */
export function usualOf(kind: string): Partial<PlanAsk> {
  switch (kind) {
    case "charge sweep":
      return { measure: "0-60 mph", runs_per_group: 1, both_directions: false, high_charge_percent: 90 };
    case "braking series":
      return { measure: "60-0 mph", runs_per_group: 6, both_directions: false, difference_that_matters: 1 };
    case "roll-ons":
      return { measure: "30-70 mph", runs_per_group: 3, difference_that_matters: 0.1 };
    default:
      return { measure: "0-60 mph", runs_per_group: 6, both_directions: true, difference_that_matters: 0.1 };
  }
}
