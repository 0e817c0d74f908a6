import { Form, Modal } from "antd";
import { useState } from "react";

import { usePreferences } from "../../shared/preferences";
import { withUnit, type Kind } from "../../shared/units";
import { Facts } from "../../shared/Facts";
import { QuantityField } from "../../shared/fields";
import type { Run } from "../runs/queries";
import type { Key } from "./keys";

type Field =
  | "charge_before_percent"
  | "charge_after_percent"
  | "battery_temp_before_c"
  | "battery_temp_after_c"
  | "outside_temp_c"
  | "wind_mps";

const FIELDS: { name: Field; label: string; kind: Kind }[] = [
  { name: "charge_before_percent", label: "Charge before", kind: "percent" },
  { name: "charge_after_percent", label: "Charge after", kind: "percent" },
  { name: "battery_temp_before_c", label: "Battery before", kind: "temperature" },
  { name: "battery_temp_after_c", label: "Battery after", kind: "temperature" },
  { name: "outside_temp_c", label: "Outside", kind: "temperature" },
  { name: "wind_mps", label: "Wind", kind: "speed" },
];

interface Props {
  run: Run;
  suggested: Record<string, number>;
  open: boolean;
  show: (open: boolean) => void;
  press: (key: Omit<Key, "id" | "pressed_at">) => void;
  mayWrite: boolean;
}

/** The last run's conditions from CAN data and the weather station, for a glance; one key opens it for correction. */
export function RunConditions({ run, suggested, open, show, press, mayWrite }: Props) {
  const { family } = usePreferences();
  const missing = FIELDS.filter((field) => run[field.name] === null);
  return (
    <section className="sheet" aria-label="Conditions of the last run">
      <Facts rows={FIELDS.map((field) => [field.label, withUnit(run[field.name], field.kind, family)])} />
      {mayWrite && (
        <div className="choices">
          <button type="button" onClick={() => show(true)}>
            <kbd>c</kbd> {missing.length ? `add ${missing.length} missing` : "correct"}
          </button>
        </div>
      )}
      <Correction
        key={`${run.id} ${run.revision} ${open}`}
        run={run}
        suggested={suggested}
        open={open}
        show={show}
        press={press}
      />
    </section>
  );
}

/** The last values stand ready: Tab and Enter are enough where they still hold. */
function Correction({ run, suggested, open, show, press }: Omit<Props, "mayWrite">) {
  const [form] = Form.useForm<Pick<Run, Field>>();
  const [refused, setRefused] = useState("");
  const ready = Object.fromEntries(FIELDS.map(({ name }) => [name, run[name] ?? suggested[name] ?? null]));
  function save(values: Pick<Run, Field>) {
    const changed = FIELDS.filter(({ name }) => (values[name] ?? null) !== run[name]);
    if (changed.some(({ name, kind }) => kind === "percent" && !within(values[name]))) {
      setRefused("Charge is between 0 and 100 %.");
      return;
    }
    const conditions = Object.fromEntries(changed.map(({ name }) => [name, values[name] ?? null]));
    if (changed.length) press({ action: "conditions", run: run.id, revision: run.revision ?? 1, conditions });
    show(false);
  }
  return (
    <Modal
      title="Conditions of the last run"
      open={open}
      onCancel={() => show(false)}
      onOk={() => form.submit()}
      okText="Save"
      destroyOnHidden
      afterOpenChange={(shown) => shown && document.getElementById("charge_before_percent")?.focus()}
      width={460}
    >
      <Form form={form} layout="vertical" initialValues={ready} onFinish={save}>
        <div className="form-grid">
          {FIELDS.map((field) => (
            <QuantityField key={field.name} name={field.name} label={field.label} kind={field.kind} />
          ))}
        </div>
        {refused && <p className="flag void">{refused}</p>}
        <button type="submit" className="visually-hidden" tabIndex={-1}>
          Save
        </button>
      </Form>
    </Modal>
  );
}

function within(percent: number | null | undefined): boolean {
  return percent === null || percent === undefined || (percent >= 0 && percent <= 100);
}
