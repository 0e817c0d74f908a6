import { Button, Form, type FormInstance } from "antd";
import { useEffect, useState } from "react";

import { type Schemas } from "../../api/client";
import { EntryForm } from "../../shared/EntryForm";
import { TextField } from "../../shared/fields";
import { ConditionFields } from "./ConditionFields";
import { CONDITION_FIELDS } from "./conditionFields";
import { emptied } from "./conditionInput";
import { usePreviousConditions, useRunChanges, type Run } from "./queries";
import { RunPlace } from "./RunPlace";
import { WeatherReport } from "./WeatherReport";

type Changes = Schemas["PatchedRunChangeRequest"];

/** Only what was changed is sent, with the revision that was read: a change by someone else is never overwritten. */
export function ConditionsForm({ run: now, done }: { run: Run; done: () => void }) {
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [run] = useState(now);
  const { change } = useRunChanges(run.id);
  const [form] = Form.useForm<Run>();
  function sent(values: Run): Changes {
    const names = [
      ...CONDITION_FIELDS.map((field) => field.name),
      ...(["setup", "course", "notes"] as const),
    ];
    const changed = names.filter((name) => (values[name] ?? null) !== (run[name] ?? null));
    const changes = Object.fromEntries(changed.map((name) => [name, emptied(values[name], name)]));
    return { ...changes, revision: run.revision };
  }
  return (
    <EntryForm
      form={form}
      first={run}
      run={run.id}
      save={change}
      sent={sent}
      done={done}
      submit="Save"
      beside={
        <>
          <Button onClick={done}>Cancel</Button> <SameAsBefore id={run.id} form={form} />
        </>
      }
    >
      <RunPlace />
      <ConditionFields />
      <WeatherReport id={run.id} fill={(found) => form.setFieldsValue(found)} />
      <TextField name="notes" label="Notes" rows={3} most={4000} />
    </EntryForm>
  );
}

/** Fills what is empty with what the run before had: what it was read at differs from run to run, and stays empty. */
function SameAsBefore({ id, form }: { id: number; form: FormInstance<Run> }) {
  const previous = usePreviousConditions(id);
  function fill() {
    previous.mutate(undefined, {
      onSuccess: (found) => {
        const now = form.getFieldsValue() as Record<string, unknown>;
        const lent = Object.entries(found).filter(
          ([name]) => !READ_ANEW.includes(name) && isEmpty(now[name]),
        );
        form.setFieldsValue(Object.fromEntries(lent) as Partial<Run>);
      },
    });
  }
  useEffect(() => {
    function onKey(event: KeyboardEvent) {
      if (!event.altKey || event.code !== "KeyP") return;
      event.preventDefault();
      fill();
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
  return (
    <>
      <Button onClick={fill} loading={previous.isPending}>
        Same as the previous run<kbd> Alt P</kbd>
      </Button>{" "}
      {previous.error && <span role="status">There is no run before this one.</span>}
    </>
  );
}

const READ_ANEW = [
  "charge_before_percent",
  "charge_after_percent",
  "battery_temp_before_c",
  "battery_temp_after_c",
  "direction",
  "brake_temp_c",
  "odometer_km",
  "notes",
];

function isEmpty(value: unknown): boolean {
  return value === null || value === undefined || value === "";
}
