import { useState } from "react";
import { useLocation, useNavigationType, useSearchParams } from "react-router";

import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { headline } from "../../shared/measures";
import type { Family } from "../../shared/units";

export type Ask = Schemas["AskRequest"];
export type RunKind = "standing" | "stop" | "rolling";
export type AskedGroup = Schemas["AskedGroupRequest"];
export const MOST_GROUPS = 6;
const ROLLING = { us: "30-70 mph", metric: "80-120 km/h" } as const;
export const MOST_RUNS = 500; // of a group; said where there are more

/** What is asked as an address, so that the answer has a link before it is saved. */
export function askPath(ask: Partial<Ask>): string {
  return `/compare/new?ask=${encodeURIComponent(JSON.stringify(ask))}`;
}

/** What runs of a kind are asked first. */
export function questionOf(kind: RunKind, family: Family): Pick<Ask, "measure" | "clock" | "quantity"> {
  if (kind === "rolling") return { measure: ROLLING[family], clock: "speed", quantity: "time" };
  const stop = kind === "stop";
  return {
    measure: headline(kind, family),
    clock: stop ? "speed" : "rollout",
    quantity: stop ? "distance" : "time",
  };
}

export function twoGroups(before: number[], after: number[]): AskedGroup[] {
  return [groupOfRuns("before", before), groupOfRuns("after", after)];
}

export function groupOfRuns(name: string, runs: number[] = []): AskedGroup {
  return { name, runs, clock: "", source: "" };
}

export function useAsk(): [Ask, (changes: Partial<Ask>) => void] {
  const [search, setSearch] = useSearchParams();
  const { family } = usePreferences();
  const first: Ask = {
    measure: headline("standing", family),
    clock: "rollout",
    quantity: "time",
    match: false,
    groups: twoGroups([], []),
  };
  const [ask, setAsk] = useState<Ask>({ ...first, ...parsed(search.get("ask")) });
  const { key } = useLocation();
  const [readAt, setReadAt] = useState(key);
  const movedBy = useNavigationType();
  // The address follows what is asked, by replacing, and may lag behind fast typing; it is read only where a link or
  // the browser's history has moved the page.
  if (key !== readAt) {
    setReadAt(key);
    if (movedBy !== "REPLACE") setAsk({ ...ask, ...parsed(search.get("ask")) });
  }
  const change = (changes: Partial<Ask>) => {
    const next = { ...ask, ...changes };
    setAsk(next);
    setSearch({ ask: JSON.stringify(next) }, { replace: true });
  };
  return [ask, change];
}

/** An address that was mangled asks nothing. */
function parsed(text: string | null): Partial<Ask> {
  try {
    return text ? (JSON.parse(text) as Partial<Ask>) : {};
  } catch {
    return {};
  }
}

export function isReady(ask: Ask): boolean {
  return ask.groups.length > 1 && ask.groups.every((group) => size(group) > 0);
}

export function size(group: AskedGroup): number {
  return (group.runs?.length ?? 0) + (group.typed_values?.length ?? 0);
}

/** The groups with some runs put into one of them, and out of all others. */
export function withRuns(groups: AskedGroup[], ids: number[], into: number | null): AskedGroup[] {
  return groups.map((group, place) => {
    const kept = (group.runs ?? []).filter((id) => !ids.includes(id));
    return { ...group, runs: into === place ? [...kept, ...ids] : kept };
  });
}

export function nextName(groups: AskedGroup[]): string {
  return `group ${groups.length + 1}`;
}
