import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import {
  follow,
  outcome,
  refused,
  send,
  type Given,
  type Report,
  type Sending,
  type Upload,
} from "./imports";

/** Imports logs one after the other. */
export function useImport() {
  const [uploads, setUploads] = useState<Upload[]>([]);
  const [going, setGoing] = useState<AbortController | null>(null);
  const client = useQueryClient();

  async function start(logs: readonly Sending[]) {
    const added = logs.map((log, index) => ({ ...log, key: Date.now() + index }));
    setUploads((all) => [
      ...all,
      ...added.map((log) => ({
        ...log,
        name: log.file.name,
        percent: 0,
        state: "waiting" as const,
        message: "",
      })),
    ]);
    for (const { key, ...log } of added) await one(key, log);
    await settle();
  }

  async function one(key: number, log: Sending) {
    const report: Report = (change) =>
      setUploads((all) => all.map((each) => (each.key === key ? { ...each, ...change } : each)));
    const controller = new AbortController();
    setGoing(controller);
    try {
      const made = await send(log, report, controller.signal);
      report(outcome(await follow(made, report, controller.signal)));
    } catch (error) {
      report(refused(error));
    }
  }

  async function settle() {
    setGoing(null);
    await client.invalidateQueries({ queryKey: ["runs"] });
    await client.invalidateQueries({ queryKey: ["cars"] });
  }

  /** Send a file again with what it was refused for: what its columns mean, or its day, now or later. */
  async function again(upload: Upload, { layout, ...dating }: Given) {
    const conditions = { ...upload.conditions, ...dating };
    await one(upload.key, { file: upload.file, can: upload.can, conditions, layout });
    await settle();
  }

  return { uploads, start, again, cancel: going ? () => going.abort() : null };
}
