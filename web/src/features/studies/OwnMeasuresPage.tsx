import { useState } from "react";
import { Link } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { DeleteButton } from "../../shared/DeleteButton";
import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, QuantityField, TextField } from "../../shared/fields";
import { Failed, Loading } from "../../shared/States";
import { useDelete } from "../../shared/useDelete";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import { useCars } from "../cars/queries";
import {
  useOwnMeasures,
  useOwnValues,
  useSaveOwnMeasure,
  useSaveOwnValue,
  type OwnMeasure,
  type OwnValue,
} from "./queries";

const BETTER = [
  { value: "less", label: "less is better" },
  { value: "more", label: "more is better" },
  { value: "neither", label: "neither" },
];

/** What Coombe does not measure, as cabin noise or range: defined once, entered by setup, shown among all cars. */
export function OwnMeasuresPage() {
  useTitle("Own measures");
  const measures = useOwnMeasures();
  const values = useOwnValues();
  const cars = useCars().data ?? [];
  const { person } = useSession();
  const error = measures.error ?? values.error;
  if (error) return <Failed error={error} />;
  if (!measures.data || !values.data) return <Loading what="your own measures" />;
  const writes = person?.may_write === true;
  const setups = cars.flatMap((car) =>
    car.setups.map(({ id, name }) => ({ value: id, label: `${car.name}, ${name}` })),
  );
  const nameOf = new Map(measures.data.map((measure) => [measure.id, measure]));
  const setupOf = new Map(setups.map(({ value, label }) => [value, label]));
  return (
    <>
      <div className="page-head">
        <h1>Own measures</h1>
        <p className="quiet flush">
          What Coombe does not measure itself; it stands among <Link to="/all-cars">all cars</Link>.
        </p>
      </div>
      {writes && (
        <div className="columns even">
          <NewMeasure />
          {measures.data.length > 0 && <NewValue measures={measures.data} setups={setups} />}
        </div>
      )}
      {values.data.length > 0 && (
        <section className="sheet scroll">
          <h2>Values</h2>
          <DataTable
            rows={values.data}
            rowKey={(value) => value.id}
            columns={[
              { title: "Measure", value: (value) => nameOf.get(value.measure)?.name },
              { title: "Setup", wrap: true, value: (value) => setupOf.get(value.setup) },
              {
                title: "Value",
                number: true,
                value: (value) => `${value.value} ${nameOf.get(value.measure)?.unit ?? ""}`.trim(),
              },
              { title: "Day", value: (value) => value.day },
              { title: "From", wrap: true, value: (value) => value.source || "–" },
              { title: "", value: (value) => writes && <Remove value={value} /> },
            ]}
          />
        </section>
      )}
    </>
  );
}

function Remove({ value }: { value: OwnValue }) {
  const remove = useDelete("/api/v1/own-values/{id}/", value.id);
  return <DeleteButton small name="this value" remove={remove} />;
}

function NewMeasure() {
  const save = useSaveOwnMeasure();
  const [made, setMade] = useState(0);
  return (
    <section className="sheet" aria-label="Define a measure">
      <h2>Define a measure</h2>
      <EntryForm<OwnMeasure, Parameters<typeof save.mutate>[0], OwnMeasure>
        key={made}
        first={{ better: "less" }}
        save={save}
        sent={(measure) => measure}
        done={() => setMade(made + 1)}
        submit="Add measure"
      >
        <div className="form-grid">
          <TextField name="name" label="Name" required="Name it" most={60} placeholder="Noise at 80 mph" />
          <TextField name="unit" label="Unit" most={16} placeholder="dB" />
          <ChoiceField name="better" label="Which is better" options={BETTER} />
        </div>
      </EntryForm>
    </section>
  );
}

interface Setups {
  value: number;
  label: string;
}

function NewValue({ measures, setups }: { measures: readonly OwnMeasure[]; setups: readonly Setups[] }) {
  const save = useSaveOwnValue();
  const [made, setMade] = useState(0);
  const today = new Date().toISOString().slice(0, 10);
  return (
    <section className="sheet" aria-label="Enter a value">
      <h2>Enter a value</h2>
      <EntryForm<OwnValue, Parameters<typeof save.mutate>[0], OwnValue>
        key={made}
        first={{ measure: measures[0]?.id, day: today }}
        save={save}
        sent={(value) => value}
        done={() => setMade(made + 1)}
        submit="Add value"
      >
        <div className="form-grid">
          <ChoiceField
            name="measure"
            label="Measure"
            options={measures.map(({ id, name }) => ({ value: id, label: name }))}
          />
          <ChoiceField name="setup" label="Setup" required="Choose a setup" search options={[...setups]} />
          <TextField name="value" label="Value" required="Enter a number" inputMode="decimal" />
          <TextField name="day" label="Day" required="Enter the day" placeholder="2026-05-09" />
          <QuantityField name="outside_temp_c" label="Outside" kind="temperature" />
          <TextField name="source" label="From" most={200} placeholder="own meter, a test in print" />
        </div>
      </EntryForm>
    </section>
  );
}
