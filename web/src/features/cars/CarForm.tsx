import { Alert, Button, Form, Input, InputNumber, Select } from "antd";

import type { Schemas } from "../../api/client";
import { QuantityInput } from "../../shared/QuantityInput";
import { useAddCar } from "./queries";

const LAYOUTS = ["front", "rear", "all"].map((value) => ({ value, label: `${value}-wheel drive` }));

export function CarForm({ done }: { done: () => void }) {
  const add = useAddCar();
  return (
    <Form
      layout="vertical"
      initialValues={{ drive_layout: "all" }}
      onFinish={(values) => add.mutate(values as Schemas["CarRequest"], { onSuccess: done })}
    >
      <div className="form-grid">
        <Form.Item name="name" label="Name" rules={[{ required: true, message: "What you call it" }]}>
          <Input maxLength={80} />
        </Form.Item>
        <Form.Item name="maker" label="Maker">
          <Input maxLength={80} />
        </Form.Item>
        <Form.Item name="model_year" label="Model year">
          <InputNumber style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="drive_layout" label="Driven wheels">
          <Select options={LAYOUTS} />
        </Form.Item>
        <Form.Item name="test_mass_kg" label="Mass as tested">
          <QuantityInput kind="mass" />
        </Form.Item>
        <Form.Item name="power_kw" label="Power, kW">
          <InputNumber style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="pack_kwh" label="Pack, kWh">
          <InputNumber style={{ width: "100%" }} />
        </Form.Item>
      </div>
      {add.error && <Alert type="error" title={add.error.message} style={{ marginBottom: 12 }} />}
      <Button type="primary" htmlType="submit" loading={add.isPending}>
        Add the car
      </Button>
    </Form>
  );
}
