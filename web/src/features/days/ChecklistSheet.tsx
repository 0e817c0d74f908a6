import { Button, Checkbox, Input } from "antd";
import { useState } from "react";

import { useDayActions, type ChecklistItem, type Day } from "./queries";

const OWN = "Own"; // lines that a tester added

/** Go or no-go: every line that is needed, signed off under one's own name. */
export function ChecklistSheet({ day, mayWrite }: { day: Day; mayWrite: boolean }) {
  const actions = useDayActions(day.id);
  const sections = [...new Set(day.checklist.map((item) => item.section))];
  const left = day.checklist.filter((item) => item.needed && !item.signed_by).length;
  return (
    <section className="sheet" aria-label="Checklist">
      <h2 role="status">{day.go ? "Go: everything is signed off" : `Not yet go: ${left} to sign off`}</h2>
      {actions.error && <p className="flag void">{actions.error.message}</p>}
      {sections.map((section) => (
        <div key={section}>
          <h3>{section}</h3>
          {day.checklist
            .filter((item) => item.section === section)
            .map((item) => (
              <Line key={item.id} item={item} actions={actions} mayWrite={mayWrite} />
            ))}
        </div>
      ))}
      {mayWrite && left < day.checklist.length && (
        <Button className="above" onClick={() => actions.signAgain.mutate(undefined)}>
          Sign off again for the next run
        </Button>
      )}
      {mayWrite && <AddLine add={(text) => actions.addCheck.mutate({ day: day.id, section: OWN, text })} />}
    </section>
  );
}

interface LineProps {
  item: ChecklistItem;
  actions: ReturnType<typeof useDayActions>;
  mayWrite: boolean;
}

function Line({ item, actions, mayWrite }: LineProps) {
  return (
    <div className="check-line">
      <Checkbox
        checked={item.signed_by !== null}
        disabled={!mayWrite || !item.needed}
        onChange={(event) =>
          actions.check.mutate({ id: item.id, revision: item.revision, signed: event.target.checked })
        }
      >
        <span style={item.needed ? undefined : { textDecoration: "line-through" }}>{item.text}</span>
        {item.signed_by && <span className="u95"> {item.signed_by}</span>}
      </Checkbox>
      {mayWrite && (
        <Button
          size="small"
          type="text"
          aria-label={`${item.needed ? "Skip" : "Require"}: ${item.text}`}
          onClick={() => actions.check.mutate({ id: item.id, revision: item.revision, needed: !item.needed })}
        >
          {item.needed ? "skip" : "require"}
        </Button>
      )}
      {mayWrite && item.section === OWN && (
        <Button
          size="small"
          type="text"
          aria-label={`Delete: ${item.text}`}
          onClick={() => actions.removeCheck.mutate(item.id)}
        >
          delete
        </Button>
      )}
    </div>
  );
}

function AddLine({ add }: { add: (text: string) => void }) {
  const [text, setText] = useState("");
  return (
    <form
      className="row above"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) add(text.trim());
        setText("");
      }}
    >
      <Input
        aria-label="Your own checklist item"
        maxLength={200}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button htmlType="submit">Add item</Button>
    </form>
  );
}
