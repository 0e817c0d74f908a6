import { AutoComplete, Form, Input, InputNumber, Segmented, Select, Switch, type FormInstance } from "antd";

import { asOptions } from "../../shared/options";
import { QuantityInput } from "../../shared/QuantityInput";
import { useCars, useCourses } from "../cars/queries";
import { isStop } from "./amount";
import { KINDS, kindName } from "./kinds";
import type { PlanAsk } from "./queries";

const ORDERS = ["ABBA", "alternating", "randomised", "blocked"];
const MEASURES = [
  "0-30 mph",
  "0-60 mph",
  "0-100 km/h",
  "1/4 mile",
  "30-70 mph",
  "80-120 km/h",
  "60-0 mph",
  "100-0 km/h",
];

interface Props {
  form: FormInstance<PlanAsk>;
  start: Partial<PlanAsk>;
  changed: () => void;
}

/** The question, what would matter, and how it may be driven. */
export function PlanForm({ form, start, changed }: Props) {
  return (
    <Form form={form} layout="vertical" initialValues={start} onValuesChange={changed}>
      <Question form={form} />
      <Arms form={form} />
      <Driving form={form} />
      <Window />
    </Form>
  );
}

function Question({ form }: { form: FormInstance<PlanAsk> }) {
  const cars = useCars();
  const courses = useCourses();
  const measure = (Form.useWatch("measure", form) as string | undefined) ?? "0-60 mph";
  return (
    <section className="sheet" aria-label="Question">
      <Form.Item
        name="question"
        label="The question"
        rules={[{ required: true, message: "What is to be answered" }]}
      >
        <Input maxLength={160} placeholder="Did update 7.2 change 0-60?" />
      </Form.Item>
      <div className="form-grid">
        <Form.Item name="car" label="Car" rules={[{ required: true, message: "Which car" }]}>
          <Select options={cars.data?.map((each) => ({ value: each.id, label: each.name }))} />
        </Form.Item>
        <Form.Item name="course" label="Course" rules={[{ required: true, message: "Which strip" }]}>
          <Select
            options={courses.data?.map((each) => ({
              value: each.id,
              label: `${each.name}, ${each.direction}`,
            }))}
          />
        </Form.Item>
        <Form.Item name="kind" label="Kind of test">
          <Select options={KINDS.map((value) => ({ value, label: kindName(value) }))} />
        </Form.Item>
        <Form.Item name="measure" label="Measure">
          <AutoComplete options={MEASURES.map((value) => ({ value }))} />
        </Form.Item>
        <Form.Item name="clock" label="Clock">
          <Segmented
            options={[
              { value: "rollout", label: "rollout" },
              { value: "first_movement", label: "first movement" },
            ]}
          />
        </Form.Item>
        <Form.Item name="smallest_difference" label="Smallest difference that matters">
          {isStop(measure) ? (
            <QuantityInput kind="distance" step={0.5} />
          ) : (
            <QuantityInput kind="time" step={0.01} />
          )}
        </Form.Item>
      </div>
    </section>
  );
}

function Arms({ form }: { form: FormInstance<PlanAsk> }) {
  const cars = useCars();
  const car = Form.useWatch("car", form) as number | undefined;
  const kind = Form.useWatch("kind", form) as string | undefined;
  const setUps = cars.data?.find((each) => each.id === car)?.set_ups ?? [];
  const options = setUps.map((each) => ({ value: each.id, label: each.name }));
  const single = kind === "charge sweep" || kind === "braking series";
  return (
    <section className="sheet" aria-label="Groups">
      <h2>{single ? "What is tested" : "Groups"}</h2>
      {[0, 1].slice(0, single ? 1 : 2).map((place) => (
        <div className="form-grid" key={place}>
          <Form.Item
            name={["arms", place, "name"]}
            label={`Name of group ${place + 1}`}
            rules={[{ required: true }]}
          >
            <Input maxLength={40} />
          </Form.Item>
          <Form.Item name={["arms", place, "set_up"]} label={`Set-up of group ${place + 1}`}>
            <Select allowClear placeholder="not made yet" options={options} />
          </Form.Item>
        </div>
      ))}
      {!single && (
        <Form.Item
          name="can_alternate"
          label="Can the car go back and forth between the groups within a day?"
        >
          <Switch checkedChildren="yes" unCheckedChildren="no, as with an update" />
        </Form.Item>
      )}
    </section>
  );
}

function Driving({ form }: { form: FormInstance<PlanAsk> }) {
  const alternates = Form.useWatch("can_alternate", form) as boolean | undefined;
  const kind = Form.useWatch("kind", form) as string | undefined;
  const number = (name: keyof PlanAsk, label: string, step = 1) => (
    <Form.Item name={name} label={label}>
      <InputNumber min={0} step={step} style={{ width: "100%" }} />
    </Form.Item>
  );
  return (
    <section className="sheet" aria-label="Driving">
      <h2>Driving</h2>
      <div className="form-grid">
        {number("runs_per_arm", kind === "charge sweep" ? "Runs per rung" : "Runs per group")}
        {alternates === false && number("days_per_arm", "Days per group")}
        {alternates !== false && (kind === "arms" || kind === "roll-ons" || kind === "side by side") && (
          <Form.Item name="order" label="Order">
            <Select options={asOptions(ORDERS)} />
          </Form.Item>
        )}
        {kind === "braking series" && number("cooling_min", "Cooling before each stop, min")}
        {kind === "charge sweep" && number("ladder_low_percent", "Down to a charge of, %")}
        {kind === "charge sweep" && number("ladder_step_percent", "Step, points")}
        {number("minutes_a_run", "Minutes per run")}
        {number("minutes_a_change", "Minutes to change groups")}
        <Form.Item name="power" label="Chance to find it">
          <Select options={[0.8, 0.9, 0.95].map((value) => ({ value, label: `${100 * value} %` }))} />
        </Form.Item>
        <Form.Item name="both_directions" label="Both directions">
          <Switch checkedChildren="yes" unCheckedChildren="no" />
        </Form.Item>
      </div>
    </section>
  );
}

function Window() {
  return (
    <section className="sheet" aria-label="Window">
      <h2>Window that a run may begin in</h2>
      <div className="form-grid">
        <Form.Item name="low_charge_percent" label="Charge from">
          <QuantityInput kind="percent" />
        </Form.Item>
        <Form.Item name="high_charge_percent" label="Charge to">
          <QuantityInput kind="percent" />
        </Form.Item>
        <Form.Item name="low_pack_temp_c" label="Pack from">
          <QuantityInput kind="temperature" />
        </Form.Item>
        <Form.Item name="high_pack_temp_c" label="Pack to">
          <QuantityInput kind="temperature" />
        </Form.Item>
      </div>
    </section>
  );
}
