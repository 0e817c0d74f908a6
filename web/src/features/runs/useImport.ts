import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import {
  follow,
  outcome,
  refused,
  send,
  type CanFiles,
  type Given,
  type Layout,
  type Report,
  type SharedConditions,
  type Upload,
} from "./imports";

/** Imports files one after the other with the conditions that hold for all of them. */
export function useImport() {
  const [uploads, setUploads] = useState<Upload[]>([]);
  const [going, setGoing] = useState<AbortController | null>(null);
  const client = useQueryClient();

  async function start(files: File[], conditions: SharedConditions, can: CanFiles) {
    const added = files.map((file, index) => ({ file, key: Date.now() + index }));
    setUploads((all) => [
      ...all,
      ...added.map(({ file, key }) => ({
        key,
        name: file.name,
        percent: 0,
        state: "waiting" as const,
        message: "",
        file,
        conditions,
        can,
      })),
    ]);
    for (const { file, key } of added) await one(key, { file, conditions, can });
    await settle();
  }

  async function one(key: number, what: Pick<Upload, "file" | "conditions" | "can">, layout?: Layout) {
    const report: Report = (change) =>
      setUploads((all) => all.map((each) => (each.key === key ? { ...each, ...change } : each)));
    const controller = new AbortController();
    setGoing(controller);
    try {
      const made = await send(what, report, controller.signal, layout);
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
    await one(upload.key, { ...upload, conditions }, layout);
    await settle();
  }

  return { uploads, start, again, cancel: going ? () => going.abort() : null };
}
