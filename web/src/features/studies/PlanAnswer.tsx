import { Link } from "react-router";

import { askPath as comparePath, groupOfRuns } from "../comparisons/ask";
import { usePlan, type Plan } from "../plans/queries";
import { askPath } from "./ask";
import { factsOf } from "./kinds";

/** From a plan to what its runs say: a study of its kind, or the comparison of its groups. */
export function PlanAnswer({ plan }: { plan: Plan }) {
  const driven = plan.progress.filter((group) => group.runs.length > 0);
  if (driven.length === 0) return null;
  const path = pathOf(plan);
  return path ? <Link to={path}>What its runs say</Link> : null;
}

/** The same from one of its days. */
export function DayAnswer({ plan }: { plan: number }) {
  const found = usePlan(plan);
  return found.data ? <PlanAnswer plan={found.data} /> : null;
}

function pathOf(plan: Plan): string | null {
  const { measure = "", clock = "rollout" } = plan;
  const kind = factsOf(plan.kind ?? "")?.kind;
  if (!kind) {
    if (plan.progress.length < 2) return null;
    const groups = plan.progress.map(({ group, runs }) => groupOfRuns(group, [...runs]));
    const asked = measure.includes("-0 ")
      ? { clock: "speed" as const, quantity: "distance" as const }
      : { clock };
    return comparePath({ measure, quantity: "time", ...asked, groups });
  }
  const days = plan.days.map((day) => day.local_day).sort();
  const of = { from_day: days[0] ?? null, to_day: days.at(-1) ?? null };
  const series = plan.groups.map(({ name, setup, car }) => ({
    name,
    car: car ?? plan.car,
    setup: setup ?? null,
    ...of,
  }));
  return askPath({ kind, measure, clock: kind === "charge sweep" ? clock : "", series, left_out: [] });
}
