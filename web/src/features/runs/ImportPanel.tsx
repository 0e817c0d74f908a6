import { Button, Form, Input, Select } from "antd";
import { useRef, useState, type DragEvent } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { QuantityInput } from "../../shared/QuantityInput";
import { useCars, useCourses } from "../cars/queries";
import { BusChooser } from "./BusChooser";
import { useImport, type BusFiles, type SharedConditions } from "./useImport";
import { UploadList } from "./UploadList";

/** Logs dropped in, with the conditions that hold for all of their runs; `onStart` keeps the panel open. */
export function ImportPanel({ onStart }: { onStart: () => void }) {
  const cars = useCars();
  const { car } = usePreferences();
  const { uploads, start, again, cancel } = useImport();
  const [form] = Form.useForm<SharedConditions>();
  const [bus, setBus] = useState<BusFiles>({});
  const options = setUpOptions(cars.data ?? [], car);
  async function take(files: File[]) {
    const conditions = await form.validateFields().catch(() => null);
    if (!conditions || !files.length) return;
    onStart();
    setBus({});
    await start(files, conditions, bus);
  }
  if (cars.data?.length === 0) {
    return (
      <section className="sheet">
        <h2>Import logs</h2>
        <p>
          A run is made on a set-up of a car. <Link to="/cars">Add the car first</Link>, then drop its logs
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
          <Form.Item
            name="set_up"
            label="Set-up"
            rules={[{ required: true, message: "Which set-up was driven?" }]}
          >
            <Select
              options={options}
              showSearch={{ optionFilterProp: "label" }}
              placeholder="Car and set-up"
            />
          </Form.Item>
          <Form.Item name="charge_before_percent" label="Charge before">
            <QuantityInput kind="percent" />
          </Form.Item>
          <Form.Item name="pack_temp_before_c" label="Pack before">
            <QuantityInput kind="temperature" />
          </Form.Item>
          <Form.Item name="drive_mode" label="Drive mode">
            <Input maxLength={40} />
          </Form.Item>
          <Form.Item name="course" label="Course and direction">
            <CourseSelect />
          </Form.Item>
        </div>
      </Form>
      <BusChooser chosen={bus} choose={setBus} />
      <DropZone take={(files) => void take(files)} />
      <UploadList uploads={uploads} cancel={cancel} again={again} />
    </section>
  );
}

function setUpOptions(cars: readonly Schemas["Car"][], car: number | null) {
  return cars
    .filter((each) => car === null || each.id === car)
    .map((each) => ({
      label: each.name,
      title: each.name,
      options: each.set_ups
        .map((setUp) => ({ value: setUp.id, label: `${each.name}: ${setUp.name}` }))
        .reverse(),
    }));
}

/** Runs that went the other way along the strip get its other direction by their heading. */
function CourseSelect(props: { id?: string; value?: number; onChange?: (value: number) => void }) {
  const courses = useCourses();
  const options = courses.data?.map((course) => ({
    value: course.id,
    label: `${course.name}, ${course.direction}`,
  }));
  return <Select {...props} allowClear options={options ?? []} placeholder="Not written down" />;
}

function DropZone({ take }: { take: (files: File[]) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  function onDrop(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    take([...event.dataTransfer.files]);
  }
  return (
    <>
      <button
        type="button"
        className={over ? "drop over" : "drop"}
        onClick={() => input.current?.click()}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={onDrop}
      >
        <strong>Drop receiver logs here, or choose files</strong>
        <br />
        <span className="quiet">
          NMEA, UBX, GPX, positioning JSON, Parquet or CSV, up to 200 MB each. One log may hold many runs.
        </span>
      </button>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Log files"
        onChange={(event) => {
          take([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <Button style={{ marginTop: 8 }} onClick={() => folder.current?.click()}>
        Choose a folder
      </Button>
      <input
        ref={folder}
        type="file"
        hidden
        aria-label="Folder of logs"
        {...{ webkitdirectory: "" }}
        onChange={(event) => {
          const files = [...(event.target.files ?? [])].filter((file) => !file.name.startsWith("."));
          take(files.sort((a, b) => a.webkitRelativePath.localeCompare(b.webkitRelativePath)));
          event.target.value = "";
        }}
      />
    </>
  );
}

export function ImportButton({ open, toggle }: { open: boolean; toggle: () => void }) {
  return (
    <Button type={open ? "default" : "primary"} onClick={toggle}>
      {open ? "Close import" : "Import logs"}
    </Button>
  );
}
