import { useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useState } from "react";

import { ACTION_DONE } from "../../api/client";
import { useAction, useUndo } from "./queries";

/** Offers to take back what was done last: a line at the bottom, where it moves nothing, and Ctrl or Cmd and Z. */
export function UndoOffer() {
  const [latest, setLatest] = useState<number | null>(null);
  const action = useAction(latest).data;
  const undo = useUndo();
  const client = useQueryClient();
  const { mutate, reset } = undo;
  useEffect(() => {
    const onDone = (event: Event) => {
      setLatest((event as CustomEvent<number>).detail);
      reset();
      void client.invalidateQueries({ queryKey: ["history"] });
    };
    window.addEventListener(ACTION_DONE, onDone);
    return () => window.removeEventListener(ACTION_DONE, onDone);
  }, [client, reset]);
  useEffect(() => {
    if (!action?.may_undo) return;
    function onKey(event: KeyboardEvent) {
      const asked = (event.ctrlKey || event.metaKey) && !event.shiftKey && event.key.toLowerCase() === "z";
      if (!asked || !action || isField(event.target)) return;
      event.preventDefault();
      mutate(action.id);
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [action, mutate]);
  if (!action) return null;
  return (
    <div className="notice row" role="status">
      <span>
        {action.title}. {undo.error?.message}
      </span>
      {action.may_undo && (
        <Button size="small" loading={undo.isPending} onClick={() => mutate(action.id)}>
          Undo
        </Button>
      )}
      <Button size="small" type="text" aria-label="Close" onClick={() => setLatest(null)}>
        ✕
      </Button>
    </div>
  );
}

/** A field takes back what is typed in it by itself. */
function isField(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.closest("input, textarea, [contenteditable]") !== null;
}
