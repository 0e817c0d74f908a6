import { Button, Checkbox, Input } from "antd";
import { useState } from "react";

import { useDayActions, type CheckItem, type Day } from "./queries";

/** Go or no-go: every line that is needed, signed off under one's own name. */
export function ChecklistSheet({ day, mayWrite }: { day: Day; mayWrite: boolean }) {
  const actions = useDayActions(day.id);
  const sections = [...new Set(day.checks.map((item) => item.section))];
  const left = day.checks.filter((item) => item.needed && !item.signed_by).length;
  return (
    <section className="sheet" aria-label="Checklist">
      <h2 role="status">{day.go ? "Go: all signed off" : `No go yet: ${left} to sign off`}</h2>
      {actions.error && <p className="flag void">{actions.error.message}</p>}
      {sections.map((section) => (
        <div key={section}>
          <h3>{section}</h3>
          {day.checks
            .filter((item) => item.section === section)
            .map((item) => (
              <Line key={item.id} item={item} actions={actions} mayWrite={mayWrite} />
            ))}
        </div>
      ))}
      {mayWrite && left < day.checks.length && (
        <Button style={{ marginTop: 8 }} onClick={() => actions.signAgain.mutate(undefined)}>
          Sign again for the next run
        </Button>
      )}
      {mayWrite && <AddLine add={(text) => actions.addCheck.mutate({ day: day.id, section: "Own", text })} />}
    </section>
  );
}

interface LineProps {
  item: CheckItem;
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
          aria-label={`${item.needed ? "Leave out" : "Take in"}: ${item.text}`}
          onClick={() => actions.check.mutate({ id: item.id, revision: item.revision, needed: !item.needed })}
        >
          {item.needed ? "leave out" : "take in"}
        </Button>
      )}
    </div>
  );
}

function AddLine({ add }: { add: (text: string) => void }) {
  const [text, setText] = useState("");
  return (
    <form
      style={{ display: "flex", gap: 8, marginTop: 10 }}
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) add(text.trim());
        setText("");
      }}
    >
      <Input
        aria-label="A line of your own"
        maxLength={200}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button htmlType="submit">Add a line</Button>
    </form>
  );
}
