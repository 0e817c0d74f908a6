import { Radio } from "antd";
import dayjs, { type Dayjs } from "dayjs";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { EntryForm } from "../../shared/EntryForm";
import {
  ChoiceField,
  DateField,
  NumberField,
  QuantityField,
  TextField,
  YesNoField,
} from "../../shared/fields";
import { Fold } from "../../shared/Fold";
import { useReceivers } from "../../shared/useReceivers";
import { useSaveSetup } from "./queries";

export const CHANGES = [
  "as delivered",
  "software update",
  "paid unlock",
  "wheels",
  "tires",
  "brakes",
  "aero",
  "repair",
  "other",
];
const WHEELS = [
  ...["wheel_diameter_in", "wheel_mass_kg", "tire_season", "tire_size"],
  ...["tire_pressure_kpa", "tire_pressure_hot_kpa", "tire_distance_km", "tire_tread_mm"],
];
const SEASONS = ["summer", "all-season", "winter", "track"];

type Typed = Omit<Schemas["SetupRequest"], "since" | "car"> & { since: Dayjs };

interface Props {
  car: Schemas["Car"];
  /** The setup that is edited; a new one otherwise. */
  setup?: Schemas["Setup"];
  done: () => void;
}

/** A new setup starts from the last one: only what changed is typed. */
function firstOf(from?: Schemas["Setup"]): object {
  return {
    ...from,
    name: "",
    change_note: "",
    confirmed_by: "",
    price: null,
    currency: "",
    claimed_measure: "",
    claimed_gain_s: null,
    since: dayjs(),
    change: from ? undefined : "as delivered",
    can_undo: true,
    tire_season: from?.tire_season ?? "summer",
    receiver_used: from?.receiver_used ?? "",
  };
}

/** A setup is added or edited. Once it has runs, the form asks: typed wrong, or something else fitted since? */
export function SetupForm({ car, setup: now, done }: Props) {
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [setup] = useState(now);
  const [fitted, setFitted] = useState(false);
  const asks = setup !== undefined && setup.run_count > 0;
  const editing = setup !== undefined && !fitted;
  return (
    <>
      {asks && (
        <Radio.Group
          className="below"
          aria-label="Why it changes"
          value={fitted}
          onChange={(event) => setFitted(event.target.value as boolean)}
          options={[
            { value: false, label: "This was typed wrong: correct it" },
            { value: true, label: "Something else was fitted: add the next setup" },
          ]}
        />
      )}
      <Fields
        key={String(editing)}
        car={car}
        editing={editing ? setup : undefined}
        first={editing ? { ...setup, since: dayjs(setup.since) } : firstOf(setup ?? car.setups.at(-1))}
        explained={asks && editing}
        done={done}
      />
    </>
  );
}

/** Whose runs count where several receivers saw a pass. */
function ReceiverField() {
  const receivers = useReceivers().data ?? [];
  return (
    <ChoiceField
      name="receiver_used"
      label="Receiver that counts, of several"
      options={[
        { value: "", label: "the quicker one" },
        ...receivers.map(({ name }) => ({ value: name, label: name })),
      ]}
    />
  );
}

function Fields(props: {
  car: Schemas["Car"];
  editing?: Schemas["Setup"];
  first: object;
  explained: boolean;
  done: () => void;
}) {
  const { car, editing, first, explained, done } = props;
  const save = useSaveSetup(editing?.id);
  return (
    <EntryForm
      first={first}
      save={save}
      sent={(values: Typed) => ({
        ...values,
        car: car.id,
        since: values.since.format("YYYY-MM-DD"),
        revision: editing?.revision,
      })}
      done={done}
      submit={editing ? "Save" : "Add setup"}
    >
      {explained && (
        <TextField
          name="correction"
          label="What had been typed wrong"
          most={200}
          placeholder="pressure was read in bar"
        />
      )}
      <div className="form-grid">
        <ChoiceField name="change" label="What changed" required="Describe what changed" options={CHANGES} />
        <TextField name="change_note" label="Description of the change" most={300} />
        <TextField name="name" label="Name" required="Enter a short name" most={80} />
        <DateField name="since" label="Since" required="Enter the date" />
      </div>
      <p className="quiet">All below is taken over from the setup before; open what changed with it.</p>
      <Fold
        opened={editing !== undefined}
        title="Software, confirmation and undo"
        names={["software_version", "confirmed_by", "can_undo", "receiver_used"]}
      >
        <TextField name="software_version" label="Software version" most={40} />
        <TextField
          name="confirmed_by"
          label="Confirmed active by"
          most={200}
          placeholder="version screen, menu entry"
        />
        <YesNoField name="can_undo" label="Can the change be undone?" />
        <ReceiverField />
      </Fold>
      <Fold opened={editing !== undefined} title="Wheels and tires" names={WHEELS}>
        <NumberField name="wheel_diameter_in" label="Wheel diameter, in" />
        <QuantityField name="wheel_mass_kg" label="Wheel and tire, per corner" kind="mass" />
        <ChoiceField name="tire_season" label="Tires" options={SEASONS} />
        <TextField name="tire_size" label="Tire size" most={40} placeholder="245/45 R19" />
        <QuantityField name="tire_pressure_kpa" label="Tire pressure, cold" kind="pressure" />
        <QuantityField name="tire_pressure_hot_kpa" label="Tire pressure, hot" kind="pressure" />
        <QuantityField name="tire_distance_km" label="Tire distance" kind="odometer" />
        <NumberField name="tire_tread_mm" label="Tread, mm" step={0.1} />
      </Fold>
      <Fold opened={editing !== undefined} title="Mass and drag" names={["test_mass_kg", "cda_m2"]}>
        <QuantityField name="test_mass_kg" label="Mass, if this changed it" kind="mass" />
        <NumberField name="cda_m2" label="Drag area, m², if changed" step={0.01} />
      </Fold>
      <Fold
        opened={editing !== undefined}
        title="Price and claimed gain"
        names={["price", "currency", "claimed_measure", "claimed_gain_s"]}
      >
        <TextField name="price" label="Price" inputMode="decimal" />
        <TextField name="currency" label="Currency" most={3} placeholder="EUR" />
        <TextField name="claimed_measure" label="Claimed gain: measure" most={24} placeholder="0-60 mph" />
        <NumberField name="claimed_gain_s" label="Claimed gain, s" min={0.001} step={0.1} />
      </Fold>
      <TextField name="modifications" label="Modifications" rows={2} most={2000} />
    </EntryForm>
  );
}
