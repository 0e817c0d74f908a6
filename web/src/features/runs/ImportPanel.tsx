import { Form } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { ChoiceField, QuantityField, TextField } from "../../shared/fields";
import { useCars } from "../cars/queries";
import { useCourseOptions } from "../courses/useCourseOptions";
import { CanChooser } from "./CanChooser";
import { DropZone } from "./DropZone";
import type { CanFiles, SharedConditions } from "./imports";
import { useImport } from "./useImport";
import { UploadList } from "./UploadList";

/** Logs dropped in, with the conditions that hold for all of their runs; `onStart` keeps the panel open. */
export function ImportPanel({ onStart }: { onStart: () => void }) {
  const cars = useCars();
  const { car } = usePreferences();
  const { uploads, start, again, cancel } = useImport();
  const [form] = Form.useForm<SharedConditions>();
  const [can, setCan] = useState<CanFiles>({});
  const options = setupOptions(cars.data ?? [], car);
  // Runs that went the other way along the strip get its other direction by their heading.
  const courses = useCourseOptions();
  async function take(files: File[]) {
    const conditions = await form.validateFields().catch(() => null);
    if (!conditions || !files.length) return;
    onStart();
    setCan({});
    await start(files, conditions, can);
  }
  if (cars.data?.length === 0) {
    return (
      <section className="sheet">
        <h2>Import logs</h2>
        <p>
          Every run belongs to a setup of a car. <Link to="/cars">Add the car first</Link>, then drop its logs
          here.
        </p>
      </section>
    );
  }
  return (
    <section className="sheet" aria-label="Import logs">
      <h2>Import logs</h2>
      <Form form={form} layout="vertical">
        <div className="form-grid">
          <ChoiceField
            name="setup"
            label="Setup"
            required="Choose the setup that was driven"
            options={options}
            search
            placeholder="Car and setup"
          />
          <ChoiceField
            name="course"
            label="Course and direction"
            clearable
            options={courses}
            placeholder="Not recorded"
          />
          <QuantityField name="charge_before_percent" label="Charge before" kind="percent" />
          <QuantityField name="last_charge_before_percent" label="Charge at the last run" kind="percent" />
          <QuantityField name="battery_temp_before_c" label="Battery before" kind="temperature" />
          <QuantityField
            name="last_battery_temp_before_c"
            label="Battery at the last run"
            kind="temperature"
          />
          <TextField name="drive_mode" label="Drive mode" most={40} />
        </div>
        <p className="quiet">
          With a value at the last run, too, charge and battery are spread over the runs between and marked as
          estimated.
        </p>
      </Form>
      <CanChooser chosen={can} choose={setCan} />
      <DropZone take={(files) => void take(files)} />
      <UploadList uploads={uploads} cancel={cancel} again={again} />
    </section>
  );
}

function setupOptions(cars: readonly Schemas["Car"][], car: number | null) {
  return cars
    .filter((each) => car === null || each.id === car)
    .map((each) => ({
      label: each.name,
      title: each.name,
      options: each.setups
        .map((setup) => ({ value: setup.id, label: `${each.name}: ${setup.name}` }))
        .reverse(),
    }));
}
