import { Form } from "antd";

import { QuantityField } from "../../../shared/fields";
import { DropZone } from "../../runs/DropZone";
import type { SharedConditions } from "../../runs/imports";
import { UploadList } from "../../runs/UploadList";
import type { useImport } from "../../runs/useImport";

interface Props {
  side: "before" | "after";
  imports: ReturnType<typeof useImport>;
  /** What is missing before logs can be taken; empty where nothing is. */
  waits: string;
  take: (files: File[], conditions: SharedConditions) => void;
}

/** The logs of one side, with charge and battery temperature where they were noted. */
export function QuickSide({ side, imports, waits, take }: Props) {
  const [form] = Form.useForm<SharedConditions>();
  const { uploads, again, cancel } = imports;
  return (
    <section className="sheet" aria-label={side}>
      <h2>{side === "before" ? "Before" : "After"}</h2>
      <DropZone of={side} disabled={Boolean(waits)} take={(files) => take(files, form.getFieldsValue())} />
      {waits && <p className="quiet">{waits}</p>}
      <UploadList uploads={uploads} cancel={cancel} again={again} />
      <details className="above">
        <summary>Charge and battery temperature, if noted</summary>
        <p className="quiet">Enter them before you drop the logs; they are spread over the runs between.</p>
        <Form form={form} layout="vertical">
          <div className="form-grid">
            <QuantityField name="charge_before_percent" label="Charge, first run" kind="percent" />
            <QuantityField name="last_charge_before_percent" label="Charge, last run" kind="percent" />
            <QuantityField name="battery_temp_before_c" label="Battery, first run" kind="temperature" />
            <QuantityField name="last_battery_temp_before_c" label="Battery, last run" kind="temperature" />
          </div>
        </Form>
      </details>
    </section>
  );
}
