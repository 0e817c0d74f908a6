import { Button, Form, Input, Modal } from "antd";
import type { Dayjs } from "dayjs";
import { useState } from "react";

import { CLOCK_NAMES } from "../../shared/measures";
import { ChoiceField, DateField, TextField } from "../../shared/fields";
import { MOST_GROUPS, size, type Ask, type AskedGroup } from "./ask";

interface Typed {
  name: string;
  values: string;
  clock: Ask["clock"];
  source: string;
  day?: Dayjs;
}

interface Props {
  groups: AskedGroup[];
  set: (groups: AskedGroup[]) => void;
  clock: Ask["clock"];
}

/** Times from elsewhere, with where they come from and on which clock they are. */
export function TypedGroup({ groups, set, clock }: Props) {
  const [open, setOpen] = useState(false);
  const empty = groups.findIndex((group) => size(group) === 0);
  if (empty < 0 && groups.length >= MOST_GROUPS) return null;
  function add(typed: Typed) {
    const group: AskedGroup = {
      name: typed.name,
      runs: [],
      typed_values: numbers(typed.values),
      clock: typed.clock,
      source: typed.source,
      typed_day: typed.day?.format("YYYY-MM-DD") ?? null,
    };
    set(empty < 0 ? [...groups, group] : groups.map((each, place) => (place === empty ? group : each)));
    setOpen(false);
  }
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)}>
        Enter times from elsewhere
      </Button>
      <Modal
        title="Times from elsewhere"
        open={open}
        onCancel={() => setOpen(false)}
        footer={null}
        destroyOnHidden
      >
        <Form<Typed> layout="vertical" initialValues={{ clock }} onFinish={add}>
          <TextField name="name" label="Name of the group" required="Name the group" most={40} />
          <Form.Item
            name="values"
            label="Times in seconds, separated by spaces or commas"
            required
            rules={[
              {
                validator: (_, text: string) =>
                  numbers(text ?? "").length
                    ? Promise.resolve()
                    : Promise.reject(new Error("For example 3.91 3.94 3.89")),
              },
            ]}
          >
            <Input.TextArea rows={2} />
          </Form.Item>
          <ChoiceField
            name="clock"
            label="Clock"
            options={Object.entries(CLOCK_NAMES).map(([value, label]) => ({ value, label }))}
          />
          <DateField name="day" label="Day, if all were driven on one, in this order" />
          <TextField name="source" label="Source" required="Enter the source" most={200} />
          <Button type="primary" htmlType="submit">
            Add group
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
