import { openDB, type DBSchema, type IDBPDatabase } from "idb";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";

import { api, ApiError, body, type Schemas } from "../../api/client";
import type { Strip } from "./queries";

export type Key = Schemas["KeyRequest"];

interface Kept extends DBSchema {
  keys: { key: number; value: Key & { recorder: number }; indexes: { recorder: number } };
}

const RETRY_MS = 2000;
const WAITING = [0, 403, 429, 503];
const MOST_FAILURES = 5;

function database(): Promise<IDBPDatabase<Kept>> {
  return openDB<Kept>("coombe", 1, {
    upgrade(made) {
      made.createObjectStore("keys", { autoIncrement: true }).createIndex("recorder", "recorder");
    },
  });
}

/** What becomes of keys: they wait, the server took one and says how the strip stands now, or it refused one. */
interface Happenings {
  waiting?: (waiting: Key[]) => void;
  strip?: (strip: Strip) => void;
  refused?: (why: string) => void;
}

/** Keys of one recorder: kept in this browser until the server has them, sent one by one in their order. */
export class KeyQueue {
  private sending = false;
  private happened: Happenings = {};
  private readonly failures = new Map<string, number>();

  constructor(private readonly recorder: number) {}

  when = (happened: Happenings) => {
    this.happened = happened;
  };

  async press(key: Omit<Key, "id" | "pressed_at">): Promise<void> {
    const made = { ...key, id: crypto.randomUUID(), pressed_at: new Date().toISOString() };
    await (await database()).add("keys", { ...made, recorder: this.recorder });
    await this.send();
  }

  /** Send what waits, from the first on; what the server refuses is reported and dropped, silence keeps it. */
  send = async (): Promise<void> => {
    if (this.sending) return;
    this.sending = true;
    try {
      const kept = await database();
      for (;;) {
        const places = await kept.getAllKeysFromIndex("keys", "recorder", this.recorder);
        const keys = await kept.getAllFromIndex("keys", "recorder", this.recorder);
        this.happened.waiting?.(keys);
        const [place, key] = [places[0], keys[0]];
        if (place === undefined || key === undefined) return;
        if (!(await this.sent(key))) return;
        await kept.delete("keys", place);
      }
    } finally {
      this.sending = false;
    }
  };

  /** Whether the server has decided on the key. */
  private async sent({ recorder, ...key }: Key & { recorder: number }): Promise<boolean> {
    try {
      const path = { id: recorder };
      const answer = await api.POST("/api/v1/recorders/{id}/key-presses/", { params: { path }, body: key });
      this.happened.strip?.(body(answer));
      return true;
    } catch (error) {
      const status = error instanceof ApiError ? error.status : 0;
      const message = error instanceof Error ? error.message : "";
      // Without a log-in, and while the server or its database is away, keys wait.
      if (WAITING.includes(status)) return false;
      this.happened.refused?.(message);
      if (status < 500) return true;
      // A key that the server fails on is tried a few times, then set aside, so that it holds back none behind it.
      this.failures.set(key.id, (this.failures.get(key.id) ?? 0) + 1);
      return (this.failures.get(key.id) ?? 0) >= MOST_FAILURES;
    }
  }
}

export function useKeyQueue(recorder: number) {
  const client = useQueryClient();
  const queue = useMemo(() => new KeyQueue(recorder), [recorder]);
  const [waiting, setWaiting] = useState<Key[]>([]);
  const [refused, setRefused] = useState("");
  useEffect(() => {
    queue.when({
      waiting: setWaiting,
      refused: setRefused,
      strip: (strip) => {
        setRefused("");
        client.setQueryData(["strip", recorder], strip);
      },
    });
    void queue.send();
    const timer = window.setInterval(() => void queue.send(), RETRY_MS);
    return () => window.clearInterval(timer);
  }, [client, queue, recorder]);
  const press = useCallback((key: Omit<Key, "id" | "pressed_at">) => void queue.press(key), [queue]);
  return { press, waiting, refused, send: queue.send };
}
