import { api, ApiError, body, csrfToken, refusal, type Schemas } from "../../api/client";

const LOOK_MS = 400; // between two looks at how far an import has come

export type Import = Schemas["Imported"];

/** Somebody canceled the import. */
export class CanceledError extends Error {}

export interface Upload {
  key: number;
  name: string;
  percent: number;
  state: "waiting" | "sending" | "timing" | "done" | "refused" | "canceled";
  message: string;
  /** How many runs are timed, of how many that were found. */
  timed?: number;
  found?: number;
  log?: Schemas["Log"];
  /** Headings of a table that have to be named first; the file and its conditions wait for that. */
  headings?: string[];
  /** The log has no date, and waits for the day that it was driven on. */
  undated?: boolean;
  /** The same bytes are stored already; with the setup that was chosen this time. */
  already?: boolean;
  /** What looks like a slip about its runs. */
  doubt?: string;
  setup?: number;
  file: File;
  conditions: SharedConditions;
  can: CanFiles;
}

/** The CAN log of the same drive and what decodes it, where there are such files. */
export interface CanFiles {
  can_log?: File;
  dbc?: File;
}

/** What a file lacked, and is sent again with. */
export interface Given {
  layout?: Layout;
  day?: string;
  zone?: string;
  later?: boolean;
}

/** What the headings of a table mean, by heading. */
export type Layout = Record<string, Meaning>;
export type Meaning = Schemas["MeaningEnum"];

export type SharedConditions = Record<string, string | number | boolean | null | undefined>;
export type Report = (change: Partial<Upload>) => void;

/** One log with all that goes with it. */
export interface Sending extends Pick<Upload, "file" | "conditions" | "can"> {
  layout?: Layout;
}

/** Sends one log; the progress of an upload needs XMLHttpRequest, which `fetch` cannot show. */
export function send(
  { file, conditions, can, layout }: Sending,
  report: Report,
  canceled: AbortSignal,
): Promise<Import> {
  const form = new FormData();
  form.set("file", file);
  if (can.can_log) form.set("can_log", can.can_log);
  if (can.can_log && can.dbc) form.set("dbc", can.dbc);
  if (layout) form.set("layout", JSON.stringify(layout));
  for (const [name, value] of Object.entries(conditions)) {
    if (value !== undefined && value !== null && value !== "") form.set(name, String(value));
  }
  const request = new XMLHttpRequest();
  return new Promise((resolve, reject) => {
    request.open("POST", "/api/v1/logs/");
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => {
      report({ percent: Math.round((100 * event.loaded) / event.total), state: "sending" });
    };
    request.onload = () => {
      const answer = json(request.responseText);
      if (request.status < 400 && answer) resolve(answer as Import);
      else reject(refusal(request.status, answer));
    };
    request.onerror = () =>
      reject(new ApiError(0, { detail: "The server does not answer. Nothing of this file was stored." }));
    request.onabort = () => reject(new CanceledError());
    canceled.addEventListener("abort", () => request.abort());
    request.send(form);
  });
}

function json(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** Follows an import until it has ended; canceled from here, it is canceled there. */
export async function follow(made: Import, report: Report, canceled: AbortSignal): Promise<Import> {
  const params = { params: { path: { id: made.id } } };
  let now = made;
  while (now.state === "waiting" || now.state === "timing") {
    report({ state: "timing", percent: 100, timed: now.runs_timed, found: now.runs_found });
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
    if (canceled.aborted) {
      await api.DELETE("/api/v1/imports/{id}/", params);
      throw new CanceledError();
    }
    now = body(await api.GET("/api/v1/imports/{id}/", params));
  }
  if (now.refusal) throw new ApiError(now.refusal.status, now.refusal);
  return now;
}

export function outcome({ log, already, doubt, setup }: Import): Partial<Upload> {
  if (!log) return { state: "refused", message: "The log has been deleted." };
  const runs = `${log.run_ids.length} ${log.run_ids.length === 1 ? "run" : "runs"}`;
  const beside = log.can_log ? `, CAN log ${log.can_log.name} aligned` : "";
  const untimed = log.untimed
    .map((each) => `; 1 more was found but could not be timed: ${each.reason}`)
    .join("");
  const message = already
    ? `already imported, nothing stored twice (${runs})`
    : `${runs} found${beside}${untimed}`;
  return { state: "done", percent: 100, message, log, already, doubt, setup: already ? setup : undefined };
}

export function refused(error: unknown): Partial<Upload> {
  if (error instanceof CanceledError) return { state: "canceled", message: "Canceled." };
  if (!(error instanceof ApiError)) throw error;
  const { message, headings, fields } = error;
  return {
    state: "refused",
    message,
    headings: headings.length > 0 ? headings : undefined,
    undated: "day" in fields,
  };
}
