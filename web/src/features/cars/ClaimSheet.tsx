import { Alert, Button, Form, Input, InputNumber, Select } from "antd";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { CLOCK_NAMES } from "../runs/measures";
import { useAddClaim } from "./queries";

const CLOCKS = [
  { value: "", label: "not stated" },
  { value: "first_movement", label: "first movement" },
  { value: "rollout", label: "rollout" },
];

/** What the maker says the car does, on which clock, and where that was said. */
export function ClaimSheet({ car, mayWrite }: { car: Schemas["Car"]; mayWrite: boolean }) {
  const add = useAddClaim();
  const [adding, setAdding] = useState(false);
  return (
    <section className="sheet" aria-label="Claims">
      <h2>The maker’s claims</h2>
      {car.claims.length === 0 && <p className="quiet">None written down.</p>}
      {car.claims.map((each) => (
        <p key={each.id}>
          <strong>
            {each.measure} in {each.value_s.toFixed(1)} s
          </strong>
          , clock {each.clock ? CLOCK_NAMES[each.clock] : "not stated"}.{" "}
          <span className="quiet">{each.source}</span>
        </p>
      ))}
      {mayWrite && <Button onClick={() => setAdding(!adding)}>Add a claim</Button>}
      {adding && (
        <Form
          layout="vertical"
          style={{ marginTop: 12 }}
          initialValues={{ measure: "0-60 mph", clock: "" }}
          onFinish={(values) =>
            add.mutate(
              { ...(values as Schemas["ClaimRequest"]), car: car.id },
              { onSuccess: () => setAdding(false) },
            )
          }
        >
          <div className="form-grid">
            <Form.Item name="measure" label="Measure">
              <Input maxLength={24} />
            </Form.Item>
            <Form.Item name="value_s" label="Time, s" rules={[{ required: true, message: "In seconds" }]}>
              <InputNumber step={0.1} style={{ width: "100%" }} />
            </Form.Item>
            <Form.Item name="clock" label="Clock">
              <Select options={CLOCKS} />
            </Form.Item>
            <Form.Item
              name="source"
              label="Where it was said"
              rules={[{ required: true, message: "Its source" }]}
            >
              <Input maxLength={200} />
            </Form.Item>
          </div>
          {add.error && <Alert type="error" title={add.error.message} style={{ marginBottom: 12 }} />}
          <Button type="primary" htmlType="submit" loading={add.isPending}>
            Keep the claim
          </Button>
        </Form>
      )}
    </section>
  );
}
