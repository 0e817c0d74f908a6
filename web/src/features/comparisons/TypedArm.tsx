import { Button, Form, Input, Modal, Select } from "antd";
import { useState } from "react";

import { CLOCK_NAMES } from "../runs/measures";
import { MOST_ARMS, size, type Ask, type AskedArm } from "./ask";

interface Typed {
  name: string;
  values: string;
  clock: Ask["clock"];
  source: string;
}

interface Props {
  arms: AskedArm[];
  set: (arms: AskedArm[]) => void;
  clock: Ask["clock"];
}

/** Times from elsewhere, with where they come from and on which clock they are. */
export function TypedArm({ arms, set, clock }: Props) {
  const [open, setOpen] = useState(false);
  const empty = arms.findIndex((arm) => size(arm) === 0);
  if (empty < 0 && arms.length >= MOST_ARMS) return null;
  function add(typed: Typed) {
    const arm: AskedArm = {
      name: typed.name,
      runs: [],
      typed: numbers(typed.values),
      clock: typed.clock,
      source: typed.source,
    };
    set(empty < 0 ? [...arms, arm] : arms.map((each, place) => (place === empty ? arm : each)));
    setOpen(false);
  }
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)}>
        Type times from elsewhere
      </Button>
      <Modal
        title="Times from elsewhere"
        open={open}
        onCancel={() => setOpen(false)}
        footer={null}
        destroyOnHidden
      >
        <Form<Typed> layout="vertical" initialValues={{ clock }} onFinish={add}>
          <Form.Item
            name="name"
            label="Name of the group"
            rules={[{ required: true, message: "Whose times" }]}
          >
            <Input maxLength={40} />
          </Form.Item>
          <Form.Item
            name="values"
            label="Times in seconds, apart by spaces or commas"
            rules={[
              {
                validator: (_, text: string) =>
                  numbers(text ?? "").length
                    ? Promise.resolve()
                    : Promise.reject(new Error("Such as 3.91 3.94 3.89")),
              },
            ]}
          >
            <Input.TextArea rows={2} />
          </Form.Item>
          <Form.Item name="clock" label="Clock that they are on">
            <Select options={Object.entries(CLOCK_NAMES).map(([value, label]) => ({ value, label }))} />
          </Form.Item>
          <Form.Item
            name="source"
            label="Where they come from"
            rules={[{ required: true, message: "Say where" }]}
          >
            <Input maxLength={200} />
          </Form.Item>
          <Button type="primary" htmlType="submit">
            Add the group
          </Button>
        </Form>
      </Modal>
    </>
  );
}

function numbers(text: string): number[] {
  const parts = text.split(/[\s,;]+/).filter(Boolean);
  const values = parts.map(Number);
  return values.every((value) => value > 0) ? values : [];
}
