import { Alert, AutoComplete, Button, Form, Input, InputNumber, Select } from "antd";

import type { Schemas } from "../../api/client";
import { ApiError } from "../../api/client";
import { asOptions } from "../../shared/options";
import { useSetUpOptions } from "../cars/useSetUpOptions";
import { useCourses } from "../cars/queries";
import { useSaveRecorder, type Recorder } from "./queries";
import { useDays } from "../days/useDays";

const INTERFACES = ["socketcan", "slcan", "pcan", "kvaser", "gs_usb", "socketcand"];

/** A test car's devices, and what is recorded with them. */
export function RecorderForm({ recorder, done }: { recorder?: Recorder; done: () => void }) {
  const save = useSaveRecorder(recorder?.id);
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
      initialValues={recorder ?? { measure: "0-60 mph", clock: "rollout", baud_rate: 115200 }}
      onFinish={(values: Schemas["RecorderRequest"]) =>
        save.mutate(
          { ...values, day: values.day ?? null, course: values.course ?? null },
          { onSuccess: done },
        )
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
        <Form.Item
          {...field("receiver", "Receiver")}
          rules={[{ required: true, message: "Such as /dev/ttyACM0 or socket://host:port" }]}
        >
          <Input placeholder="/dev/ttyACM0 or socket://host:port" />
        </Form.Item>
        <Form.Item {...field("baud_rate", "Baud rate")}>
          <InputNumber min={4800} max={3000000} style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item {...field("bus_interface", "Car bus: interface")}>
          <AutoComplete options={asOptions(INTERFACES)} placeholder="none" />
        </Form.Item>
        <Form.Item {...field("bus_channel", "Car bus: channel")}>
          <Input placeholder="can0" />
        </Form.Item>
        <Form.Item {...field("mast", "Weather mast")}>
          <Input placeholder="none, or socket://host:port" />
        </Form.Item>
      </div>
      <Form.Item {...field("dbc", "DBC of the bus, Coombe’s own where empty")}>
        <Input.TextArea rows={2} />
      </Form.Item>
      {save.error && <Alert type="error" title={save.error.message} style={{ marginBottom: 12 }} />}
      <Button type="primary" htmlType="submit" loading={save.isPending}>
        {recorder ? "Save" : "Add the recorder"}
      </Button>
    </Form>
  );
}
