import { Alert, Form } from "antd";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { DataTable } from "../../shared/DataTable";
import { EntryForm } from "../../shared/EntryForm";
import { TextField } from "../../shared/fields";
import { When } from "../../shared/When";
import { usePreferences } from "../../shared/preferences";
import { useSettled } from "../../shared/useSettled";
import { ChangedField } from "../history/ChangedField";
import { ConditionFields } from "./ConditionFields";
import { emptied } from "./conditionInput";
import { useChangeMany, useManyChanges, type ManyChanges } from "./queries";
import { RunPlace } from "./RunPlace";
import { VoidFields } from "./VoidFields";

const SHOWN = 8;
const NEEDED = ["setup", "validity", "void_reason"];

interface Props {
  picked: number[];
  done: () => void;
}

/** Only the fields that are touched change, after a look at what becomes of each run. */
export function EditRunsForm({ picked, done }: Props) {
  const [form] = Form.useForm<ManyChanges>();
  const [touched, setTouched] = useState<ManyChanges>({});
  const preview = useManyChanges(picked, useSettled(touched));
  const save = useChangeMany();
  const seen = preview.data;
  const revisions = new Map(seen?.effects.map((effect) => [effect.id, effect.revision]));
  return (
    <EntryForm
      form={form}
      first={{}}
      run={picked[0]}
      save={save}
      sent={() => ({
        runs: picked.map((id) => ({ id, revision: revisions.get(id) })),
        changes: touched,
        apply: true,
      })}
      done={done}
      submit="Save"
      beside={
        preview.error ? (
          <Alert type="error" title={preview.error.message} />
        ) : (
          <span role="status">
            {seen?.sentence ?? "A field that you leave alone stays as it is in each run."}
          </span>
        )
      }
      onChange={(changed) => setTouched(withChanged(touched, changed))}
    >
      <RunPlace />
      <VoidFields />
      <ConditionFields />
      <TextField name="notes" label="Notes" rows={2} most={4000} />
      {seen && seen.changed > 0 && <Preview effects={seen.effects} />}
    </EntryForm>
  );
}

function Preview({ effects }: { effects: Schemas["ChangedMany"]["effects"] }) {
  const { family } = usePreferences();
  return (
    <section aria-label="What changes">
      <DataTable
        rows={effects.slice(0, SHOWN)}
        rowKey={(effect) => effect.id}
        columns={[
          { title: "Run", value: (effect) => <When of={effect} seconds /> },
          {
            title: "Change",
            wrap: true,
            value: (effect) =>
              effect.fields_changed.map((field) => (
                <ChangedField key={field.name} field={field} family={family} />
              )),
          },
        ]}
      />
      {effects.length > SHOWN && <p className="quiet">and {effects.length - SHOWN} more</p>}
    </section>
  );
}

/** What a run can't be without is left alone where it is cleared again; the rest is emptied in each run. */
function withChanged(touched: ManyChanges, changed: ManyChanges): ManyChanges {
  const next = { ...touched, ...changed };
  return Object.fromEntries(
    Object.entries(next)
      .filter(([name, value]) => !(NEEDED.includes(name) && value === undefined))
      .map(([name, value]) => [name, name in changed ? emptied(value, name) : value]),
  );
}
