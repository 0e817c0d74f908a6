import { Button, Form } from "antd";
import type { Dayjs } from "dayjs";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { dayAndTime } from "../../shared/dates";
import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { DataTable } from "../../shared/DataTable";
import { Failed, Loading } from "../../shared/States";
import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, DateField, NumberField, TextField } from "../../shared/fields";
import { useAddInterval, useBattery, useIntervals } from "./queries";

type Learned = Schemas["Learned"];
const KINDS = ["resting", "heating", "charging"].map((value) => ({ value, label: value }));

/** What the log has taught of the battery, and a place to paste more readings. */
export function BatterySheet({ car, mayWrite }: { car: number; mayWrite: boolean }) {
  const battery = useBattery(car);
  const [adding, setAdding] = useState(false);
  if (battery.isPending) return <Loading what="the battery" />;
  if (battery.error) return <Failed error={battery.error} />;
  const { data } = battery;
  return (
    <section className="sheet" aria-label="Battery">
      <h2>Battery model</h2>
      <DataTable
        rows={learnedOf(data)}
        rowKey={(row) => row.name}
        columns={[
          { value: (row) => row.name },
          {
            number: true,
            value: (row) => <strong>{`${row.learned.value.toFixed(row.digits)} ${row.unit}`}</strong>,
          },
          { value: (row) => <span className="u95">{interval(row)}</span> },
          { wrap: true, value: (row) => <span className="quiet">{row.learned.learned_from}</span> },
        ]}
      />
      {mayWrite && (
        <Button className="above below" onClick={() => setAdding(!adding)}>
          Add readings
        </Button>
      )}
      {adding && <IntervalForm car={car} done={() => setAdding(false)} />}
      <Intervals car={car} mayWrite={mayWrite} />
    </section>
  );
}

/** What the model was learned from, beside the runs. */
function Intervals({ car, mayWrite }: { car: number; mayWrite: boolean }) {
  const intervals = useIntervals(car);
  if (!intervals.data?.length) return null;
  return (
    <DataTable
      label="Readings"
      rows={intervals.data}
      rowKey={(each) => each.id}
      columns={[
        { title: "Readings from", value: (each) => dayAndTime(each.began_at) },
        { title: "State", value: (each) => each.kind },
        { title: "Readings", number: true, value: (each) => each.reading_count },
        mayWrite && { title: "", value: (each) => <DeleteInterval interval={each} /> },
      ]}
    />
  );
}

function DeleteInterval({ interval }: { interval: Schemas["BatteryInterval"] }) {
  return (
    <DeleteButton
      small
      name={`the readings of ${dayAndTime(interval.began_at)}`}
      remove={useDelete("/api/v1/battery-intervals/{id}/", interval.id)}
    />
  );
}

interface Row {
  name: string;
  unit: string;
  digits: number;
  learned: Learned;
}

function learnedOf(data: Schemas["BatteryModel"]): Row[] {
  return [
    { name: "Cooling time constant", unit: "min", digits: 0, learned: data.time_constant_min },
    { name: "Heating rate, before losses", unit: "K/min", digits: 2, learned: data.heating_k_per_min },
    { name: "Charging efficiency", unit: "", digits: 2, learned: data.charge_share },
    { name: "Charge per run", unit: "points", digits: 1, learned: data.charge_per_run_percent },
  ];
}

function interval({ learned, digits }: Row): string {
  const high = learned.high95 === null ? "no end" : learned.high95.toFixed(digits);
  return `${learned.low95.toFixed(digits)} to ${high}`;
}

type Typed = Omit<Schemas["BatteryIntervalRequest"], "began_at" | "car"> & { began_at: Dayjs };

function IntervalForm({ car, done }: { car: number; done: () => void }) {
  const add = useAddInterval();
  const [form] = Form.useForm<Typed>();
  const kind = Form.useWatch("kind", form) as string | undefined;
  return (
    <EntryForm
      form={form}
      first={{ kind: "resting" }}
      save={add}
      sent={(values) => ({ ...values, car, began_at: values.began_at.toISOString() })}
      done={done}
      submit="Save readings"
    >
      <div className="form-grid">
        <ChoiceField name="kind" label="State" options={KINDS} />
        <DateField name="began_at" label="From" required="When it began" time />
        {kind === "charging" && <NumberField name="charger_kw" label="Charger, kW" min={1} />}
      </div>
      <TextField
        name="table"
        label="Rows of minutes, battery °C, outside °C, charge %"
        required="Paste three rows or more"
        rows={6}
        placeholder={"0, 44.5, 8.0\n10, 43.0, 8.0\n20, 41.5, 7.9"}
      />
    </EntryForm>
  );
}
