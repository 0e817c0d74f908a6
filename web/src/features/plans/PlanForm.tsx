import { Term } from "../../shared/Term";
import { AutoComplete, Button, Form, Segmented, type FormInstance } from "antd";

import { QuantityInput } from "../../shared/QuantityInput";
import { useMeasure, useMeasures } from "../../shared/useMeasure";
import { ChoiceField, NumberField, QuantityField, TextField, YesNoField } from "../../shared/fields";
import { useCars } from "../cars/queries";
import { useCourseOptions } from "../courses/useCourseOptions";
import { useIsStop } from "./useIsStop";
import { isOfSeveralCars, isSingle, KINDS, kindName, mostGroups, usualOf } from "./kinds";
import type { PlanAsk } from "./queries";

const ORDERS = ["ABBA", "alternating", "randomized", "blocked"];
interface Props {
  form: FormInstance<PlanAsk>;
  start: Partial<PlanAsk>;
  changed: () => void;
  /** A saved plan keeps its number of groups. */
  saved: boolean;
}

/** The question, what would matter, and how it may be driven. */
export function PlanForm({ form, start, changed, saved }: Props) {
  return (
    <Form
      form={form}
      layout="vertical"
      initialValues={start}
      onValuesChange={({ kind }: Partial<PlanAsk>) => {
        if (kind) form.setFieldsValue(usualOf(kind) as Parameters<typeof form.setFieldsValue>[0]);
        changed();
      }}
    >
      <Question form={form} />
      <Groups form={form} saved={saved} />
      <Driving form={form} />
      <Window />
    </Form>
  );
}

function Question({ form }: { form: FormInstance<PlanAsk> }) {
  const cars = useCars();
  const courses = useCourseOptions();
  const measure = (Form.useWatch("measure", form) as string | undefined) ?? "0-60 mph";
  const stop = useIsStop(measure);
  const measures = useMeasures();
  const clocks = useMeasure(measure)?.clocks ?? [];
  return (
    <section className="sheet" aria-label="The test">
      <TextField
        name="question"
        label="Question"
        required="Enter what the test is to answer"
        most={160}
        placeholder="Did update 7.2 change 0-60?"
      />
      <div className="form-grid">
        <ChoiceField
          name="car"
          label="Car"
          required="Choose a car"
          options={cars.data?.map((each) => ({ value: each.id, label: each.name }))}
        />
        <ChoiceField name="course" label="Course" required="Choose a course" options={courses} />
        <ChoiceField
          name="kind"
          label="Kind of test"
          options={KINDS.map((value) => ({ value, label: kindName(value) }))}
        />
        <Form.Item name="measure" label="Measure">
          <AutoComplete options={measures?.map(({ name }) => ({ value: name })) ?? []} />
        </Form.Item>
        {clocks.length > 1 && (
          <Form.Item name="clock" label="Clock">
            <Segmented
              options={[
                { value: "rollout", label: "rollout" },
                { value: "first_movement", label: "first movement" },
              ]}
            />
          </Form.Item>
        )}
        <Form.Item name="difference_that_matters" label="Difference that matters">
          {stop ? <QuantityInput kind="distance" step={0.5} /> : <QuantityInput kind="time" step={0.01} />}
        </Form.Item>
      </div>
    </section>
  );
}

function Groups({ form, saved }: { form: FormInstance<PlanAsk>; saved: boolean }) {
  const cars = useCars();
  const car = Form.useWatch("car", form) as number | undefined;
  const kind = Form.useWatch("kind", form) as string | undefined;
  const several = isOfSeveralCars(kind);
  const options = (cars.data ?? [])
    .filter(({ id }) => several || id === car)
    .flatMap(({ name, setups }) =>
      setups.map((each) => ({ value: each.id, label: several ? `${name}: ${each.name}` : each.name })),
    );
  const single = isSingle(kind);
  const most = mostGroups(kind);
  return (
    <section className="sheet" aria-label="Groups">
      <h2>{single ? "Tested setup" : "Groups"}</h2>
      <Form.List name="groups">
        {(fields, { add, remove }) => (
          <>
            {fields.slice(0, most).map((field, place) => (
              <div className="form-grid" key={field.key}>
                <TextField
                  name={[field.name, "name"]}
                  label={`Name of group ${place + 1}`}
                  required="Name the group"
                  most={40}
                />
                <ChoiceField
                  name={[field.name, "setup"]}
                  label={`Setup of group ${place + 1}`}
                  clearable
                  placeholder="not installed yet"
                  options={options}
                />
                {place >= 2 && !saved && (
                  <Button
                    className="of-row"
                    onClick={() => remove(field.name)}
                    aria-label={`Remove group ${place + 1}`}
                  >
                    Remove
                  </Button>
                )}
              </div>
            ))}
            {!saved && fields.length < most && (
              <Button className="below" onClick={() => add({ name: `group ${fields.length + 1}` })}>
                Add a group
              </Button>
            )}
          </>
        )}
      </Form.List>
      {!single && (
        <YesNoField
          name="can_alternate"
          label="Can you switch between the groups within a day?"
          no="no, as with a software update"
        />
      )}
    </section>
  );
}

function Driving({ form }: { form: FormInstance<PlanAsk> }) {
  const alternates = Form.useWatch("can_alternate", form) as boolean | undefined;
  const kind = Form.useWatch("kind", form) as string | undefined;
  const number = (name: keyof PlanAsk, label: string, step = 1) => (
    <NumberField name={name} label={label} min={0} step={step} />
  );
  return (
    <section className="sheet" aria-label="Driving">
      <h2>Driving</h2>
      <div className="form-grid">
        {number("runs_per_group", kind === "charge sweep" ? "Runs per charge step" : "Runs per group")}
        {alternates === false && number("days_per_group", "Days per group")}
        {alternates !== false && (kind === "groups" || kind === "roll-ons" || kind === "side by side") && (
          <ChoiceField name="order" label="Order" options={ORDERS} />
        )}
        {kind === "braking series" && number("cooling_min", "Cooling before each stop, min")}
        {kind === "charge sweep" && number("ladder_low_percent", "Lowest charge, %")}
        {kind === "charge sweep" && number("ladder_step_percent", "Step, points")}
        {number("minutes_per_run", "Minutes per run")}
        {number("minutes_per_change", "Minutes to change groups")}
        <ChoiceField
          name="power"
          label="Power (chance to detect it)"
          options={[0.8, 0.9, 0.95].map((value) => ({ value, label: `${100 * value} %` }))}
        />
        <YesNoField name="both_directions" label="Both directions" />
      </div>
    </section>
  );
}

function Window() {
  return (
    <section className="sheet" aria-label="Window">
      <h2>
        Window in which a run may begin
        <Term word="window" />
      </h2>
      <div className="form-grid">
        <QuantityField name="low_charge_percent" label="Charge from" kind="percent" />
        <QuantityField name="high_charge_percent" label="Charge to" kind="percent" />
        <QuantityField name="low_battery_temp_c" label="Battery from" kind="temperature" />
        <QuantityField name="high_battery_temp_c" label="Battery to" kind="temperature" />
      </div>
    </section>
  );
}
