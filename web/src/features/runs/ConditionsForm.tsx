import { Button, Form, Input, Select } from "antd";
import { useState } from "react";

import { ApiError, type Schemas } from "../../api/client";
import { QuantityInput } from "../../shared/QuantityInput";
import { SaveError } from "../../shared/SaveError";
import { CONDITION_FIELDS, type ConditionField } from "./conditionFields";
import { useRunChanges, type Run } from "./queries";
import { WeatherReport } from "./WeatherReport";

type Changes = Schemas["PatchedRunChangeRequest"];

const YES_NO = [
  { value: true, label: "on" },
  { value: false, label: "off" },
];

/** Only what was changed is sent, with the revision that was read: a change by someone else is never overwritten. */
export function ConditionsForm({ run: now, done }: { run: Run; done: () => void }) {
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [run] = useState(now);
  const { change } = useRunChanges(run.id);
  const [form] = Form.useForm<Run>();
  const refused = change.error instanceof ApiError ? change.error.fields : {};
  const general = Object.entries(refused).filter(
    ([name]) => !CONDITION_FIELDS.some((field) => field.name === name),
  );
  function save(values: Run) {
    const names = [...CONDITION_FIELDS.map((field) => field.name), "notes" as const];
    const changed = names.filter((name) => (values[name] ?? null) !== (run[name] ?? null));
    const changes = Object.fromEntries(changed.map((name) => [name, sent(values[name], name)]));
    change.mutate({ ...changes, revision: run.revision } as Changes, { onSuccess: done });
  }
  return (
    <Form form={form} layout="vertical" initialValues={run} onFinish={save}>
      <div className="form-grid">
        {CONDITION_FIELDS.map((field) => (
          <Form.Item
            key={field.name}
            name={field.name}
            label={field.label}
            {...(refused[field.name] ? { validateStatus: "error" as const, help: refused[field.name] } : {})}
          >
            {input(field)}
          </Form.Item>
        ))}
      </div>
      <WeatherReport id={run.id} fill={(found) => form.setFieldsValue(found)} />
      <Form.Item name="notes" label="Notes">
        <Input.TextArea rows={3} maxLength={4000} />
      </Form.Item>
      <SaveError save={change} done={done} atFields={Object.keys(refused).length > general.length} />
      <Button type="primary" htmlType="submit" loading={change.isPending}>
        Save
      </Button>{" "}
      <Button onClick={done}>Leave as it was</Button>
    </Form>
  );
}

function input(field: ConditionField) {
  if (field.kind) return <QuantityInput kind={field.kind} />;
  if (field.yesNo) return <Select allowClear options={YES_NO} />;
  if (field.choices)
    return <Select allowClear options={field.choices.map((value) => ({ value, label: value }))} />;
  return <Input maxLength={80} />;
}

/** A cleared choice or text is an empty text to the server; a cleared number is null. */
function sent(value: unknown, name: keyof Run): unknown {
  const field = CONDITION_FIELDS.find((each) => each.name === name);
  const isText = !field?.kind && !field?.yesNo;
  return isText ? (value ?? "") : (value ?? null);
}
