import { factsOf, type StudyKind } from "./kinds";
import type { StudyAsk } from "./queries";

export type AskedSeries = NonNullable<StudyAsk["series"]>[number];

/** What a new study begins with: of a kind, of a car. */
export function firstAsk(kind: StudyKind, car: { id: number; name: string } | undefined): StudyAsk {
  const measure = factsOf(kind)?.measure ?? "";
  return { kind, measure, clock: "", series: car ? [{ name: car.name, car: car.id }] : [], left_out: [] };
}

/** The address of a study that is not saved yet. */
export function askPath(ask: StudyAsk): string {
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
  const kept = { kind, measure, clock, series, left_out, log, ...place };
  return `/studies/new?ask=${encodeURIComponent(JSON.stringify(kept))}`;
}

/** What an address asks; null where it asks nothing that can be read. */
export function askOf(params: URLSearchParams): StudyAsk | null {
  const text = params.get("ask");
  if (!text) return null;
  try {
    const read = JSON.parse(text) as StudyAsk;
    return factsOf(read.kind) ? read : null;
  } catch {
    return null;
  }
}

export function isReady(ask: StudyAsk): boolean {
  if (ask.kind === "laps") return Boolean(ask.log);
  const series = ask.series ?? [];
  return series.length > 0 && series.every((each) => each.car && each.name.trim());
}
