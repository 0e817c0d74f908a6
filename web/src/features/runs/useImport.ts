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
}

export type SharedConditions = Record<string, string | number | boolean | null | undefined>;
type Report = (change: Partial<Upload>) => void;

/** Sends one log; the progress of an upload needs XMLHttpRequest, which `fetch` cannot tell. */
function send(
  file: File,
  conditions: SharedConditions,
  report: Report,
  request: XMLHttpRequest,
): Promise<void> {
  const form = new FormData();
  form.set("file", file);
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
  if (request.status >= 400) return { state: "refused", said: refusal(request.status, body).message };
  const { log, already } = body as Schemas["Imported"];
  const runs = `${log.run_ids.length} ${log.run_ids.length === 1 ? "run" : "runs"}`;
  const said = already ? `already imported, nothing stored twice (${runs})` : `${runs} found`;
  return { state: "done", percent: 100, said, log };
}

/** Imports files one after the other with the conditions that hold for all of them. */
export function useImport() {
  const [uploads, setUploads] = useState<Upload[]>([]);
  const [request, setRequest] = useState<XMLHttpRequest | null>(null);
  const client = useQueryClient();

  async function start(files: File[], conditions: SharedConditions) {
    const added = files.map((file, index) => ({ file, key: Date.now() + index }));
    setUploads((all) => [
      ...all,
      ...added.map(({ file, key }) => ({
        key,
        name: file.name,
        percent: 0,
        state: "waiting" as const,
        said: "",
      })),
    ]);
    for (const { file, key } of added) {
      const sending = new XMLHttpRequest();
      setRequest(sending);
      await send(
        file,
        conditions,
        (change) =>
          setUploads((all) => all.map((each) => (each.key === key ? { ...each, ...change } : each))),
        sending,
      );
    }
    setRequest(null);
    await client.invalidateQueries({ queryKey: ["runs"] });
    await client.invalidateQueries({ queryKey: ["cars"] });
  }

  return { uploads, start, cancel: request ? () => request.abort() : null };
}
