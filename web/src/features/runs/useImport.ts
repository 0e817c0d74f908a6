import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { csrfToken, refusal, type Schemas } from "../../api/client";

export interface Upload {
  key: number;
  name: string;
  percent: number;
  state: "waiting" | "sending" | "timing" | "done" | "refused" | "cancelled";
  said: string;
  log?: Schemas["Log"];
  /** Headings of a table that have to be named first; the file and its conditions wait for that. */
  headings?: string[];
  /** The log has no date, and waits for the day that it was driven on. */
  undated?: boolean;
  file: File;
  conditions: SharedConditions;
  bus: BusFiles;
}

/** The CAN log of the same drive and what decodes it, where there are such files. */
export interface BusFiles {
  bus?: File;
  dbc?: File;
}

/** What the headings of a table mean, by heading. */
export type Layout = Record<string, string>;

export type SharedConditions = Record<string, string | number | boolean | null | undefined>;
type Report = (change: Partial<Upload>) => void;

/** Sends one log; the progress of an upload needs XMLHttpRequest, which `fetch` cannot tell. */
function send(
  { file, conditions, bus }: Pick<Upload, "file" | "conditions" | "bus">,
  report: Report,
  request: XMLHttpRequest,
  layout?: Layout,
): Promise<void> {
  const form = new FormData();
  form.set("file", file);
  if (bus.bus) form.set("bus", bus.bus);
  if (bus.bus && bus.dbc) form.set("dbc", bus.dbc);
  if (layout) form.set("layout", JSON.stringify(layout));
  for (const [name, value] of Object.entries(conditions)) {
    if (value !== undefined && value !== null && value !== "") form.set(name, String(value));
  }
  return new Promise((resolve) => {
    request.open("POST", "/api/logs/");
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => {
      const percent = Math.round((100 * event.loaded) / event.total);
      report({ percent, state: percent === 100 ? "timing" : "sending" });
    };
    request.onload = () => {
      report(answered(request));
      resolve();
    };
    request.onerror = () => {
      report({ state: "refused", said: "The server does not answer. Nothing of this file was stored." });
      resolve();
    };
    request.onabort = () => {
      report({ state: "cancelled", said: "Cancelled." });
      resolve();
    };
    request.send(form);
  });
}

function answered(request: XMLHttpRequest): Partial<Upload> {
  let body: unknown = null;
  try {
    body = JSON.parse(request.responseText);
  } catch {
    return { state: "refused", said: `The server answered ${request.status}.` };
  }
  if (request.status >= 400) {
    const { message, headings, fields } = refusal(request.status, body);
    const asked = { headings: headings.length > 0 ? headings : undefined, undated: "day" in fields };
    return { state: "refused", said: message, ...asked };
  }
  const { log, already } = body as Schemas["Imported"];
  const runs = `${log.run_ids.length} ${log.run_ids.length === 1 ? "run" : "runs"}`;
  const beside = log.bus ? `, CAN log ${log.bus.name} brought to its clock` : "";
  const untimed = log.untimed.map((each) => `; 1 more was found but not timed: ${each.reason}`).join("");
  const said = already
    ? `already imported, nothing stored twice (${runs})`
    : `${runs} found${beside}${untimed}`;
  return { state: "done", percent: 100, said, log };
}

/** Imports files one after the other with the conditions that hold for all of them. */
export function useImport() {
  const [uploads, setUploads] = useState<Upload[]>([]);
  const [request, setRequest] = useState<XMLHttpRequest | null>(null);
  const client = useQueryClient();

  async function start(files: File[], conditions: SharedConditions, bus: BusFiles) {
    const added = files.map((file, index) => ({ file, key: Date.now() + index }));
    setUploads((all) => [
      ...all,
      ...added.map(({ file, key }) => ({
        key,
        name: file.name,
        percent: 0,
        state: "waiting" as const,
        said: "",
        file,
        conditions,
        bus,
      })),
    ]);
    for (const { file, key } of added) await one(key, { file, conditions, bus });
    await settle();
  }

  async function one(key: number, what: Pick<Upload, "file" | "conditions" | "bus">, layout?: Layout) {
    const report: Report = (change) =>
      setUploads((all) => all.map((each) => (each.key === key ? { ...each, ...change } : each)));
    const sending = new XMLHttpRequest();
    setRequest(sending);
    await send(what, report, sending, layout);
  }

  async function settle() {
    setRequest(null);
    await client.invalidateQueries({ queryKey: ["runs"] });
    await client.invalidateQueries({ queryKey: ["cars"] });
  }

  /** Send a file again with what it was refused for: what its columns mean, or its day. */
  async function again(upload: Upload, given: { layout?: Layout; day?: string }) {
    const conditions = given.day ? { ...upload.conditions, day: given.day } : upload.conditions;
    await one(upload.key, { ...upload, conditions }, given.layout);
    await settle();
  }

  return { uploads, start, again, cancel: request ? () => request.abort() : null };
}
