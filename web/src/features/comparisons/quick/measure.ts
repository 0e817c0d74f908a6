import type { Family } from "../../../shared/units";
import type { RunRow } from "../../runs/queries";
import { groupOfRuns, questionOf, type Ask } from "../ask";

const LEAST = 2; // runs on either side: one says nothing about scatter
const KINDS = ["standing", "stop", "rolling"] as const;

/** What two sides of runs can be asked: the first kind that both have two runs of; null where there is none yet. */
export function askOf(before: readonly RunRow[], after: readonly RunRow[], family: Family): Ask | null {
  const kind = KINDS.find((each) => [before, after].every((side) => ofKind(side, each).length >= LEAST));
  if (!kind) return null;
  return {
    ...questionOf(kind, family),
    match: false,
    groups: [groupOfRuns("before", ofKind(before, kind)), groupOfRuns("after", ofKind(after, kind))],
  };
}

function ofKind(runs: readonly RunRow[], kind: string): number[] {
  return runs.filter((run) => run.kind === kind).map((run) => run.id);
}

/** What is still missing on a side before anything can be said. */
export function lacking(before: readonly RunRow[], after: readonly RunRow[]): string {
  const short = [
    ["before", before.length],
    ["after", after.length],
  ].flatMap(([name, count]) => (Number(count) < LEAST ? [`${name} has ${count} of ${LEAST}`] : []));
  return short.length > 0
    ? `The verdict appears once both sides have two runs: ${short.join(", ")}.`
    : "Both sides have runs, but not two of one kind: launches, stops or roll-ons.";
}
