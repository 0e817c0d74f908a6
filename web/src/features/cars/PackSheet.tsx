import { Alert, Button, DatePicker, Form, Input, InputNumber, Select } from "antd";
import type { Dayjs } from "dayjs";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { Failed, Loading } from "../../shared/States";
import { useAddSpell, usePack } from "./queries";

type Learned = Schemas["Learned"];
const KINDS = ["resting", "heating", "charging"].map((value) => ({ value, label: value }));

/** What the log has taught of the pack, and a place to paste more readings. */
export function PackSheet({ car, mayWrite }: { car: number; mayWrite: boolean }) {
  const pack = usePack(car);
  const [adding, setAdding] = useState(false);
  if (pack.isPending) return <Loading what="the pack" />;
  if (pack.error) return <Failed error={pack.error} />;
  const { data } = pack;
  return (
    <section className="sheet" aria-label="Pack">
      <h2>What is known of the pack</h2>
      <div className="scroll">
        <table className="plain">
          <tbody>
            <Row
              name="Cools with a time constant of"
              unit="min"
              digits={0}
              learned={data.time_constant_min}
            />
            <Row name="Heats, before losses, by" unit="K/min" digits={2} learned={data.heating_k_per_min} />
            <Row name="Of the charger’s power arrives" unit="" digits={2} learned={data.charge_share} />
            <Row name="A run takes" unit="points" digits={1} learned={data.charge_per_run_percent} />
          </tbody>
        </table>
      </div>
      {mayWrite && (
        <Button style={{ marginTop: 10 }} onClick={() => setAdding(!adding)}>
          Add readings
        </Button>
      )}
      {adding && <SpellForm car={car} done={() => setAdding(false)} />}
    </section>
  );
}

function Row({
  name,
  unit,
  digits,
  learned,
}: {
  name: string;
  unit: string;
  digits: number;
  learned: Learned;
}) {
  const high = learned.high95 === null ? "no end" : learned.high95.toFixed(digits);
  return (
    <tr>
      <td>{name}</td>
      <td className="n">
        <strong>
          {learned.value.toFixed(digits)} {unit}
        </strong>
      </td>
      <td className="u95 nowrap">
        {learned.low95.toFixed(digits)} to {high}
      </td>
      <td className="quiet">{learned.learned_from}</td>
    </tr>
  );
}

type Typed = Omit<Schemas["PackSpellRequest"], "began_at" | "car"> & { began_at: Dayjs };

function SpellForm({ car, done }: { car: number; done: () => void }) {
  const add = useAddSpell();
  const [form] = Form.useForm<Typed>();
  const kind = Form.useWatch("kind", form) as string | undefined;
  return (
    <Form
      form={form}
      layout="vertical"
      style={{ marginTop: 12 }}
      initialValues={{ kind: "resting" }}
      onFinish={(values) =>
        add.mutate({ ...values, car, began_at: values.began_at.toISOString() }, { onSuccess: done })
      }
    >
      <div className="form-grid">
        <Form.Item name="kind" label="The car was">
          <Select options={KINDS} />
        </Form.Item>
        <Form.Item name="began_at" label="From" rules={[{ required: true, message: "When it began" }]}>
          <DatePicker showTime={{ format: "HH:mm" }} format="YYYY-MM-DD HH:mm" style={{ width: "100%" }} />
        </Form.Item>
        {kind === "charging" && (
          <Form.Item name="charger_kw" label="Charger, kW">
            <InputNumber min={1} style={{ width: "100%" }} />
          </Form.Item>
        )}
      </div>
      <Form.Item
        name="table"
        label="Rows of minutes, pack °C, outside °C, charge %; pasted as they are"
        rules={[{ required: true, message: "Three rows or more" }]}
      >
        <Input.TextArea rows={6} placeholder={"0, 44.5, 8.0\n10, 43.0, 8.0\n20, 41.5, 7.9"} />
      </Form.Item>
      {add.error && <Alert type="error" title={add.error.message} style={{ marginBottom: 12 }} />}
      <Button type="primary" htmlType="submit" loading={add.isPending}>
        Keep the readings
      </Button>
    </Form>
  );
}
