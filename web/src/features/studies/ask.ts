import { useState } from "react";
import { useLocation, useNavigationType, useSearchParams } from "react-router";

import { factsOf, type StudyKind } from "./kinds";
import type { StudyAsk } from "./queries";

export type AskedSeries = NonNullable<StudyAsk["series"]>[number];

/** What a new study begins with: of a kind, of a car. */
export function firstAsk(kind: StudyKind, car: { id: number; name: string } | undefined): StudyAsk {
  const measure = factsOf(kind)?.measure ?? "";
  return { kind, measure, clock: "", series: car ? [{ name: car.name, car: car.id }] : [], left_out: [] };
}

export const MOST_SERIES = 8;

/** A name that no series has yet. */
export function unused(name: string, series: readonly AskedSeries[]): string {
  const taken = new Set(series.map((each) => each.name));
  let found = name;
  for (let n = 2; taken.has(found); n += 1) found = `${name} ${n}`;
  return found;
}

/** Two studies of one kind over one another, on the measure of the first. */
export function together(one: StudyAsk, other: StudyAsk): StudyAsk {
  const series = [...(one.series ?? [])];
  for (const each of other.series ?? []) series.push({ ...each, name: unused(each.name, series) });
  const leftOut = [...(one.left_out ?? []), ...(other.left_out ?? [])];
  const once = leftOut.filter((row, place) => leftOut.findIndex(({ run }) => run === row.run) === place);
  return { ...one, series: series.slice(0, MOST_SERIES), left_out: once };
}

/** The address of a study that is not saved yet. */
export function askPath(ask: StudyAsk): string {
  return `/studies/new?ask=${encodeURIComponent(written(ask))}`;
}

/** What is asked without what is found. */
function written(ask: StudyAsk): string {
  const {
    kind,
    measure,
    clock,
    series,
    left_out,
    log,
    start_latitude_deg,
    start_longitude_deg,
    start_heading_deg,
  } = ask;
  const place = { start_latitude_deg, start_longitude_deg, start_heading_deg };
  return JSON.stringify({ kind, measure, clock, series, left_out, log, ...place });
}

/** What is asked, which the address follows; read from it only where a link or the browser's history moved the page. */
export function useStudyAsk(first: StudyAsk): [StudyAsk, (changes: Partial<StudyAsk>) => void] {
  const [search, setSearch] = useSearchParams();
  const [ask, setAsk] = useState<StudyAsk>(asked(search) ?? first);
  const { key } = useLocation();
  const [readAt, setReadAt] = useState(key);
  const movedBy = useNavigationType();
  if (key !== readAt) {
    setReadAt(key);
    if (movedBy !== "REPLACE") setAsk(asked(search) ?? first);
  }
  const change = (changes: Partial<StudyAsk>) => {
    const next = { ...ask, ...changes };
    setAsk(next);
    setSearch({ ask: written(next) }, { replace: true });
  };
  return [ask, change];
}

/** What an address asks; null where it asks nothing that can be read. */
function asked(params: URLSearchParams): StudyAsk | null {
  try {
    const read = JSON.parse(params.get("ask") ?? "null") as StudyAsk | null;
    return read && factsOf(read.kind) ? read : null;
  } catch {
    return null;
  }
}

export function isReady(ask: StudyAsk): boolean {
  if (ask.kind === "laps") return Boolean(ask.log);
  const series = ask.series ?? [];
  return series.length > 0 && series.every((each) => each.car && each.name.trim());
}
