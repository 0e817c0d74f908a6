import { ApiError, csrfToken, refusal, type Schemas } from "../../api/client";
import type { Layout } from "./imports";

export type Looked = Schemas["Looked"];

/** A file that was chosen and not stored: what is in it, and what it still needs. */
export interface Found {
  key: number;
  file: File;
  /** What is in it; none while it is looked at, and where it was refused. */
  look?: Looked;
  refusal?: string;
  /** Headings of a table that have to be named first. */
  headings?: string[];
  layout?: Layout;
}

/** Looks at a file; nothing is stored. Raises ApiError where it can't be read. */
export async function lookAt(file: File, layout?: Layout, dbc?: File): Promise<Looked> {
  const form = new FormData();
  form.set("file", file);
  if (layout) form.set("layout", JSON.stringify(layout));
  if (dbc) form.set("dbc", dbc);
  const answer = await fetch("/api/v1/looks/", {
    method: "POST",
    body: form,
    headers: { "X-CSRFToken": csrfToken() },
  }).catch(() => {
    throw new ApiError(0, { detail: "The server does not answer. Nothing of this file was stored." });
  });
  const body: unknown = await answer.json().catch(() => null);
  if (!answer.ok) throw refusal(answer.status, body);
  return body as Looked;
}

export function isDbc(file: File): boolean {
  return file.name.toLowerCase().endsWith(".dbc");
}

/** Which receiver log each CAN log goes with, by key: the one that lasts with it for half of the shorter, else the only one. */
export function goesWith(found: readonly Found[]): Map<number, number> {
  const receivers = found.filter((each) => each.look?.kind === "receiver log");
  const pairs = new Map<number, number>();
  for (const can of found.filter((each) => each.look?.kind === "CAN log")) {
    const free = receivers.filter((each) => ![...pairs.values()].includes(each.key));
    const shares = free.map((each) => ({ key: each.key, share: shareOf(can.look, each.look) }));
    const best = shares.sort((one, other) => other.share - one.share)[0];
    if (best && best.share >= 0.5) pairs.set(can.key, best.key);
    else if (receivers.length === 1 && free[0]) pairs.set(can.key, free[0].key);
  }
  return pairs;
}

/** How much of the shorter of two logs both last; 0 where either has no date. */
function shareOf(one?: Looked, other?: Looked): number {
  if (!one?.start_utc || !other?.start_utc || !other.date_known) return 0;
  const [from, until] = [one, other]
    .map(spanOf)
    .reduce((a, b) => [Math.max(a[0], b[0]), Math.min(a[1], b[1])]);
  return Math.max((until - from) / 1000, 0) / Math.max(Math.min(one.duration_s, other.duration_s), 1);
}

function spanOf({ start_utc, duration_s }: Looked): [number, number] {
  const from = Date.parse(start_utc ?? "");
  return [from, from + 1000 * duration_s];
}

/** The runs of a log in words, such as "5 standing starts, 5 stops". */
export function runsIn(look: Looked): string {
  const names: Record<string, [string, string]> = {
    standing: ["standing start", "standing starts"],
    rolling: ["roll-on", "roll-ons"],
    stop: ["stop", "stops"],
  };
  return Object.entries(look.runs)
    .map(([kind, count]) => `${count} ${names[kind]?.[count === 1 ? 0 : 1] ?? kind}`)
    .join(", ");
}
