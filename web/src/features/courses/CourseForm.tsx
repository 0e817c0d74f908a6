import { Alert, Button, Form, Input, InputNumber, Select } from "antd";

import type { Schemas } from "../../api/client";
import { asOptions } from "../../shared/options";
import { QuantityInput } from "../../shared/QuantityInput";
import { useAddCourse } from "./queries";

const SURFACES = ["dry asphalt", "damp asphalt", "wet asphalt", "concrete", "prepared strip"];
const zones = Intl.supportedValuesOf("timeZone");

export function CourseForm({ done }: { done: (course: Schemas["Course"]) => void }) {
  const add = useAddCourse();
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return (
    <Form
      layout="vertical"
      initialValues={{ direction: "out", surface: "dry asphalt", time_zone: here, run_off_m: 0 }}
      onFinish={(values) => add.mutate(values as Schemas["CourseRequest"], { onSuccess: done })}
    >
      <div className="form-grid">
        <Form.Item name="name" label="Name" rules={[{ required: true, message: "What you call it" }]}>
          <Input maxLength={80} />
        </Form.Item>
        <Form.Item name="direction" label="Direction">
          <Select options={asOptions(["out", "back"])} />
        </Form.Item>
        <Form.Item
          name="heading_deg"
          label="Heading, degrees"
          rules={[{ required: true, message: "0 is north" }]}
        >
          <InputNumber min={0} max={360} style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="length_m" label="Length" rules={[{ required: true, message: "To pull on" }]}>
          <QuantityInput kind="distance" />
        </Form.Item>
        <Form.Item
          name="run_off_m"
          label="Run-off behind it"
          rules={[{ required: true, message: "0 if none" }]}
        >
          <QuantityInput kind="distance" />
        </Form.Item>
        <Form.Item name="surface" label="Surface">
          <Select options={asOptions(SURFACES)} />
        </Form.Item>
        <Form.Item name="elevation_m" label="Elevation">
          <QuantityInput kind="distance" />
        </Form.Item>
        <Form.Item name="time_zone" label="Time zone">
          <Select showSearch options={asOptions(zones.includes(here) ? zones : [here, ...zones])} />
        </Form.Item>
      </div>
      <Form.Item name="permission" label="Permission: who gave leave, and when">
        <Input maxLength={200} />
      </Form.Item>
      <Form.Item name="access" label="Access: gates, keys, who to ring">
        <Input maxLength={400} />
      </Form.Item>
      {add.error && <Alert type="error" title={add.error.message} style={{ marginBottom: 12 }} />}
      <Button type="primary" htmlType="submit" loading={add.isPending}>
        Add the course
      </Button>
    </Form>
  );
}
