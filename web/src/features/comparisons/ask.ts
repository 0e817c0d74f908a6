import { useState } from "react";
import { useLocation, useNavigationType, useSearchParams } from "react-router";

import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { headline } from "../runs/measures";

export type Ask = Schemas["AskRequest"];
export type AskedArm = Schemas["AskedArmRequest"];
export const MOST_ARMS = 6;

/** What is asked as an address, so that the answer has a link before it is saved. */
export function askPath(ask: Partial<Ask>): string {
  return `/compare/new?ask=${encodeURIComponent(JSON.stringify(ask))}`;
}

export function twoArms(before: number[], after: number[]): AskedArm[] {
  return [armOfRuns("before", before), armOfRuns("after", after)];
}

export function armOfRuns(name: string, runs: number[] = []): AskedArm {
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
    arms: twoArms([], []),
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
  return ask.arms.length > 1 && ask.arms.every((arm) => size(arm) > 0);
}

export function size(arm: AskedArm): number {
  return (arm.runs?.length ?? 0) + (arm.typed?.length ?? 0);
}

/** The arms with some runs put into one of them, and out of all others. */
export function withRuns(arms: AskedArm[], ids: number[], into: number | null): AskedArm[] {
  return arms.map((arm, place) => {
    const kept = (arm.runs ?? []).filter((id) => !ids.includes(id));
    return { ...arm, runs: into === place ? [...kept, ...ids] : kept };
  });
}

export function nextName(arms: AskedArm[]): string {
  return `group ${arms.length + 1}`;
}
