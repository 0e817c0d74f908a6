import { Button, Form, Input, Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { ApiError } from "../../api/client";
import { SaveError } from "../../shared/SaveError";
import { useSession } from "../accounts/session";
import { useSetUpOptions } from "../cars/useSetUpOptions";
import { useCourses } from "../cars/queries";
import { useDevices } from "./devices";
import { useSaveRecorder, type Recorder } from "./queries";
import { useDays } from "../days/useDays";

const ROLES = [
  { role: "receiver", kind: "receiver", label: "GPS receiver" },
  { role: "can", kind: "CAN", label: "CAN" },
  { role: "weather_station", kind: "weather station", label: "Weather station" },
  { role: "simulation", kind: "simulation", label: "Simulated car and driver" },
] as const;

/** A test car's devices, and what is recorded with them. */
export function RecorderForm({ recorder, done }: { recorder?: Recorder; done: () => void }) {
  const save = useSaveRecorder(recorder?.id);
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [opened] = useState(recorder);
  const devices = useDevices();
  const { person } = useSession();
  const courses = useCourses();
  const days = useDays();
  const refused = save.error instanceof ApiError ? save.error.fields : {};
  const field = (name: keyof Recorder, label: string) => ({
    name,
    label,
    ...(refused[name] ? { validateStatus: "error" as const, help: refused[name] } : {}),
  });
  const setUps = useSetUpOptions();
  return (
    <Form
      layout="vertical"
      initialValues={opened ?? { measure: "0-60 mph", clock: "rollout" }}
      onFinish={(values: Schemas["RecorderRequest"]) =>
        save.mutate({ ...emptied(values), revision: opened?.revision }, { onSuccess: done })
      }
    >
      <div className="form-grid">
        <Form.Item {...field("name", "Name")} rules={[{ required: true, message: "What you call it" }]}>
          <Input maxLength={60} />
        </Form.Item>
        <Form.Item {...field("set_up", "Set-up")} rules={[{ required: true, message: "What is driven" }]}>
          <Select showSearch optionFilterProp="label" options={setUps} />
        </Form.Item>
        <Form.Item {...field("day", "Day")}>
          <Select
            allowClear
            options={days.data?.map((day) => ({
              value: day.id,
              label: `${day.first_run_at.slice(0, 10)}, ${day.question}`,
            }))}
          />
        </Form.Item>
        <Form.Item {...field("course", "Course as staged")}>
          <Select
            allowClear
            options={courses.data?.map((each) => ({
              value: each.id,
              label: `${each.name}, ${each.direction}`,
            }))}
          />
        </Form.Item>
        <Form.Item {...field("measure", "Measure, without a day")}>
          <Input />
        </Form.Item>
      </div>
      <div className="form-grid">
        {ROLES.map(({ role, kind, label }) => (
          <Form.Item
            key={role}
            {...field(role, label)}
            {...(role === "receiver"
              ? { rules: [{ required: true, message: "Choose the GPS receiver" }] }
              : {})}
          >
            <Select
              allowClear={role !== "receiver"}
              placeholder={role === "receiver" ? "Choose a receiver" : "none"}
              options={devices.data
                ?.filter((device) => device.kind === kind)
                .map((device) => ({ value: device.id, label: device.name }))}
            />
          </Form.Item>
        ))}
      </div>
      <p className="quiet">
        {person?.may_delete ? (
          <Link to="/devices">Add or change devices</Link>
        ) : (
          "Devices are set by an administrator."
        )}
      </p>
      <SaveError save={save} done={done} />
      <Button type="primary" htmlType="submit" loading={save.isPending}>
        {recorder ? "Save" : "Add the recorder"}
      </Button>
    </Form>
  );
}

/** What was cleared is null to the server. */
function emptied(values: Schemas["RecorderRequest"]): Schemas["RecorderRequest"] {
  const { day = null, course = null, can = null, weather_station = null, simulation = null } = values;
  return { ...values, day, course, can, weather_station, simulation };
}
