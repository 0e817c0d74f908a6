import { Button } from "antd";

import { dayAndTime } from "../../shared/dates";
import { usePreferences } from "../../shared/preferences";
import { ChangedField } from "./ChangedField";
import { useHistory, useUndo, type Action } from "./queries";

/** What was changed of a row, newest first: who, when, what from and what to. */
export function HistorySheet({ of }: { of: string }) {
  const history = useHistory(of);
  const undo = useUndo();
  const actions = history.data ?? [];
  if (!actions.length) return null;
  return (
    <details className="sheet history">
      <summary>History ({actions.length})</summary>
      {undo.error && <p className="flag void">{undo.error.message}</p>}
      <ol>
        {actions.map((action) => (
          <li key={action.id}>
            <span className="quiet">
              {dayAndTime(action.done_at)}, {action.person}
            </span>
            : {action.title}
            {action.undone && " (undone)"}{" "}
            {action.may_undo && (
              <Button size="small" loading={undo.isPending} onClick={() => undo.mutate(action.id)}>
                Undo
              </Button>
            )}
            <Changes action={action} />
          </li>
        ))}
      </ol>
    </details>
  );
}

function Changes({ action }: { action: Action }) {
  const { family } = usePreferences();
  return (
    <ul className="reasons">
      {action.changes.flatMap((change) =>
        change.fields_changed
          .filter((field) => field.name !== "estimated")
          .map((field) => (
            <li key={`${change.model} ${change.row} ${field.name}`}>
              <ChangedField field={field} family={family} />
            </li>
          )),
      )}
    </ul>
  );
}
