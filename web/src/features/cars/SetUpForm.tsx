import { Alert, Button, DatePicker, Form, Input, InputNumber, Select, Switch } from "antd";
import dayjs, { type Dayjs } from "dayjs";

import type { Schemas } from "../../api/client";
import { asOptions } from "../../shared/options";
import { QuantityInput } from "../../shared/QuantityInput";
import { useAddSetUp } from "./queries";

const CHANGES = [
  "as delivered",
  "software update",
  "paid unlock",
  "wheels",
  "tires",
  "brakes",
  "aero",
  "repair",
  "other",
];
const SEASONS = ["summer", "all-season", "winter", "track"];

type Typed = Omit<Schemas["SetUpRequest"], "since" | "car"> & { since: Dayjs };

interface Props {
  car: Schemas["Car"];
  done: () => void;
}

/** A new set-up starts from the last one: only what changed is typed. */
export function SetUpForm({ car, done }: Props) {
  const add = useAddSetUp();
  const last = car.set_ups.at(-1);
  const first = {
    ...last,
    name: "",
    change_note: "",
    confirmed_by: "",
    price: null,
    currency: "",
    promised_measure: "",
    promised_gain_s: null,
    since: dayjs(),
  };
  return (
    <Form
      layout="vertical"
      initialValues={{
        ...first,
        change: last ? undefined : "as delivered",
        can_undo: true,
        tire_season: last?.tire_season ?? "summer",
      }}
      onFinish={(values: Typed) =>
        add.mutate({ ...values, car: car.id, since: values.since.format("YYYY-MM-DD") }, { onSuccess: done })
      }
    >
      <div className="form-grid">
        <Form.Item name="name" label="Name" rules={[{ required: true, message: "A short name" }]}>
          <Input maxLength={80} />
        </Form.Item>
        <Form.Item name="since" label="Since" rules={[{ required: true }]}>
          <DatePicker style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item
          name="change"
          label="What changed"
          rules={[{ required: true, message: "What separates it" }]}
        >
          <Select options={asOptions(CHANGES)} />
        </Form.Item>
        <Form.Item name="change_note" label="The change in words">
          <Input maxLength={300} />
        </Form.Item>
        <Form.Item name="confirmed_by" label="How it was confirmed active">
          <Input maxLength={200} placeholder="version screen, menu entry" />
        </Form.Item>
        <Form.Item name="can_undo" label="Can the car go back?">
          <Switch checkedChildren="yes" unCheckedChildren="no" />
        </Form.Item>
        <Form.Item name="price" label="Price">
          <Input inputMode="decimal" />
        </Form.Item>
        <Form.Item name="currency" label="Currency">
          <Input maxLength={3} placeholder="EUR" />
        </Form.Item>
        <Form.Item name="promised_measure" label="Promised for">
          <Input maxLength={24} placeholder="0-60 mph" />
        </Form.Item>
        <Form.Item name="promised_gain_s" label="Promised gain, s">
          <InputNumber min={0.001} step={0.1} style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="software_version" label="Software version">
          <Input maxLength={40} />
        </Form.Item>
        <Form.Item name="wheel_diameter_in" label="Wheel diameter, in">
          <InputNumber style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="wheel_mass_kg" label="Wheel and tire, a corner">
          <QuantityInput kind="mass" />
        </Form.Item>
        <Form.Item name="tire_season" label="Tires">
          <Select options={asOptions(SEASONS)} />
        </Form.Item>
        <Form.Item name="tire_size" label="Tire size">
          <Input maxLength={40} placeholder="245/45 R19" />
        </Form.Item>
        <Form.Item name="tire_pressure_kpa" label="Tire pressure, cold">
          <QuantityInput kind="pressure" />
        </Form.Item>
        <Form.Item name="tire_pressure_hot_kpa" label="Tire pressure, hot">
          <QuantityInput kind="pressure" />
        </Form.Item>
        <Form.Item name="tire_distance_km" label="Tires have run">
          <QuantityInput kind="odometer" />
        </Form.Item>
        <Form.Item name="tire_tread_mm" label="Tread, mm">
          <InputNumber style={{ width: "100%" }} step={0.1} />
        </Form.Item>
      </div>
      <Form.Item name="modifications" label="Modifications">
        <Input.TextArea rows={2} maxLength={2000} />
      </Form.Item>
      {add.error && <Alert type="error" title={add.error.message} style={{ marginBottom: 12 }} />}
      <Button type="primary" htmlType="submit" loading={add.isPending}>
        Add the set-up
      </Button>
    </Form>
  );
}
