import { useState } from "react";

import type { Schemas } from "../../api/client";
import { pairsOf } from "../../shared/pairs";
import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, NumberField, QuantityField, TextField } from "../../shared/fields";
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
    <EntryForm
      first={opened ? { ...opened, curve: written(opened) } : { drive_layout: "all", mass_source: "assumed" }}
      save={save}
      sent={({ curve, ...values }: Typed) => ({
        ...values,
        charge_points: points(curve ?? ""),
        revision: opened?.revision,
      })}
      done={done}
      submit={car ? "Save" : "Add car"}
    >
      <div className="form-grid">
        <TextField name="name" label="Name" required="Enter a name" most={80} />
        <TextField name="maker" label="Maker" most={80} />
        <NumberField name="model_year" label="Model year" />
        <ChoiceField name="body" label="Body" clearable options={BODIES} />
        <ChoiceField name="drive_layout" label="Driven wheels" options={LAYOUTS} />
        <QuantityField name="test_mass_kg" label="Mass as tested" kind="mass" />
        <ChoiceField name="mass_source" label="Source of the mass" options={MASS_SOURCES} />
        <QuantityField name="front_axle_kg" label="Front axle" kind="mass" />
        <QuantityField name="rear_axle_kg" label="Rear axle" kind="mass" />
        <NumberField name="power_kw" label="Power, kW" />
        <NumberField name="torque_nm" label="Torque, Nm" />
        <NumberField name="battery_kwh" label="Battery, kWh" />
        <ChoiceField name="chemistry" label="Cell chemistry" clearable options={CHEMISTRIES} />
        <NumberField name="heater_kw" label="Battery heater, kW" />
        <QuantityField name="hottest_battery_c" label="Battery conditioned up to" kind="temperature" />
        <NumberField name="cda_m2" label="Drag area, m²" step={0.01} />
        <TextField
          name="cda_source"
          label="Source of the drag area"
          most={120}
          placeholder="empty: assumed"
        />
        <NumberField name="rolling_coefficient" label="Rolling coefficient" step={0.001} />
        <TextField
          name="rolling_source"
          label="Source of the coefficient"
          most={120}
          placeholder="empty: assumed"
        />
      </div>
      <TextField
        name="curve"
        label="Charge curve: charge % and kW, one point per line; empty if unknown"
        rows={3}
        placeholder={"10, 150\n50, 110\n80, 60"}
      />
    </EntryForm>
  );
}

type Typed = Schemas["CarRequest"] & { curve?: string };

function written(car: Schemas["Car"]): string {
  return (car.charge_points ?? []).map((each) => `${each.charge_percent}, ${each.power_kw}`).join("\n");
}

function points(curve: string): Schemas["ChargePointRequest"][] {
  return pairsOf(curve).map(([charge_percent, power_kw]) => ({ charge_percent, power_kw }));
}
