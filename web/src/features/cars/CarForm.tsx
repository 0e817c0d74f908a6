import { Button, Form, Input, InputNumber, Select } from "antd";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { asOptions } from "../../shared/options";
import { pairsOf } from "../../shared/pairs";
import { QuantityInput } from "../../shared/QuantityInput";
import { SaveError } from "../../shared/SaveError";
import { useSaveCar } from "./queries";

const BODIES = ["sedan", "hatchback", "wagon", "SUV", "coupe", "roadster", "pickup"];
const MASS_SOURCES = ["weighed", "weighed per axle", "stated by the maker", "assumed"];
const CHEMISTRIES = ["nickel", "iron phosphate", "other"];
const LAYOUTS = ["front", "rear", "all"].map((value) => ({ value, label: `${value}-wheel drive` }));

/** A new car, or one whose facts are to be mended. */
export function CarForm({ car, done }: { car?: Schemas["Car"]; done: () => void }) {
  const save = useSaveCar(car?.id);
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [opened] = useState(car);
  return (
    <Form
      layout="vertical"
      initialValues={
        opened ? { ...opened, curve: written(opened) } : { drive_layout: "all", mass_source: "assumed" }
      }
      onFinish={({ curve, ...values }: Typed) =>
        save.mutate(
          { ...values, charge_points: points(curve ?? ""), revision: opened?.revision },
          { onSuccess: done },
        )
      }
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
        <Form.Item name="body" label="Body">
          <Select allowClear options={asOptions(BODIES)} />
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
        <Form.Item name="mass_source" label="How the mass was found">
          <Select options={asOptions(MASS_SOURCES)} />
        </Form.Item>
        <Form.Item name="front_axle_kg" label="Front axle">
          <QuantityInput kind="mass" />
        </Form.Item>
        <Form.Item name="rear_axle_kg" label="Rear axle">
          <QuantityInput kind="mass" />
        </Form.Item>
        <Form.Item name="torque_nm" label="Torque, Nm">
          <InputNumber style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="pack_kwh" label="Pack, kWh">
          <InputNumber style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="chemistry" label="Cells">
          <Select allowClear options={asOptions(CHEMISTRIES)} />
        </Form.Item>
        <Form.Item name="heater_kw" label="Pack heater, kW">
          <InputNumber style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="hottest_pack_c" label="Conditions the pack up to">
          <QuantityInput kind="temperature" />
        </Form.Item>
        <Form.Item name="cda_m2" label="Drag area, m²">
          <InputNumber step={0.01} style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="cda_source" label="Where that is from">
          <Input maxLength={120} placeholder="empty: assumed" />
        </Form.Item>
        <Form.Item name="rolling_coefficient" label="Rolling coefficient">
          <InputNumber step={0.001} style={{ width: "100%" }} />
        </Form.Item>
        <Form.Item name="rolling_source" label="Where that is from">
          <Input maxLength={120} placeholder="empty: assumed" />
        </Form.Item>
      </div>
      <Form.Item name="curve" label="Charge curve: charge % and kW, a point a line; empty where not known">
        <Input.TextArea rows={3} placeholder={"10, 150\n50, 110\n80, 60"} />
      </Form.Item>
      <SaveError save={save} done={done} />
      <Button type="primary" htmlType="submit" loading={save.isPending}>
        {car ? "Save" : "Add the car"}
      </Button>
    </Form>
  );
}

type Typed = Schemas["CarRequest"] & { curve?: string };

function written(car: Schemas["Car"]): string {
  return (car.charge_points ?? []).map((each) => `${each.charge_percent}, ${each.power_kw}`).join("\n");
}

function points(curve: string): Schemas["ChargePointRequest"][] {
  return pairsOf(curve).map(([charge_percent, power_kw]) => ({ charge_percent, power_kw }));
}
