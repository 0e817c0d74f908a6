import { Button, Dropdown, Modal } from "antd";
import type { Dayjs } from "dayjs";
import { useState } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { DataTable } from "../../shared/DataTable";
import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, DateField, TextField } from "../../shared/fields";
import { usePreferences } from "../../shared/preferences";
import { withUnit, type Family } from "../../shared/units";
import { HistorySheet } from "../history/HistorySheet";
import { CHANGES, SetupForm } from "./SetupForm";
import { useMergeSetup, useSplitSetup } from "./queries";

type Setup = Schemas["Setup"];
type Deed = "edit" | "merge" | "split";

const TITLES = { edit: "Edit setup", merge: "Merge setup", split: "Split setup" };

/** The setups of a car, and what can be done with each. */
export function SetupTable({ car, mayWrite }: { car: Schemas["Car"]; mayWrite: boolean }) {
  const { family } = usePreferences();
  const [doing, setDoing] = useState<{ setup: Setup; deed: Deed } | null>(null);
  const done = () => setDoing(null);
  const deeds = (setup: Setup) => [
    ...(car.setups.length > 1 ? [{ key: "merge", label: "Merge with another" }] : []),
    ...(setup.run_count > 1 ? [{ key: "split", label: "Split by date" }] : []),
  ];
  return (
    <section className="sheet">
      <h2>Setups, oldest first</h2>
      <DataTable
        rows={car.setups}
        rowKey={(each) => each.id}
        columns={[
          { title: "Since", value: (each) => each.since },
          { title: "Setup", wrap: true, value: (each) => <strong>{each.name}</strong> },
          { title: "Change", wrap: true, value: changed },
          { title: "Confirmed by", wrap: true, value: (each) => each.confirmed_by || "–" },
          { title: "Software", value: (each) => each.software_version || "–" },
          { title: "Wheels", value: (each) => wheels(each, family) },
          { title: "Tires", wrap: true, value: (each) => tires(each, family) },
          {
            title: "Runs",
            number: true,
            value: (each) => (
              <Link to={`/runs?setup=${each.id}`} aria-label={`${each.run_count} runs on ${each.name}`}>
                {each.run_count}
              </Link>
            ),
          },
          {
            title: "",
            value: (each) =>
              mayWrite && (
                <span className="row one-line">
                  <Button
                    size="small"
                    aria-label={`Edit ${each.name}`}
                    onClick={() => setDoing({ setup: each, deed: "edit" })}
                  >
                    Edit
                  </Button>
                  {each.run_count === 0 && <DeleteSetup setup={each} />}
                  {deeds(each).length > 0 && (
                    <Dropdown
                      trigger={["click"]}
                      menu={{
                        items: deeds(each),
                        onClick: ({ key }) => setDoing({ setup: each, deed: key as Deed }),
                      }}
                    >
                      <Button size="small" aria-label={`More for ${each.name}`}>
                        More
                      </Button>
                    </Dropdown>
                  )}
                </span>
              ),
          },
        ]}
      />
      <Modal
        title={doing && `${TITLES[doing.deed]} ${doing.setup.name}`}
        open={doing !== null}
        onCancel={done}
        footer={null}
        destroyOnHidden
        width={760}
        className="tall"
      >
        {doing?.deed === "edit" && (
          <>
            <SetupForm car={car} setup={doing.setup} done={done} />
            <HistorySheet of={`cars.setup:${doing.setup.id}`} />
          </>
        )}
        {doing?.deed === "merge" && <MergeForm car={car} setup={doing.setup} done={done} />}
        {doing?.deed === "split" && <SplitForm setup={doing.setup} done={done} />}
      </Modal>
    </section>
  );
}

function DeleteSetup({ setup }: { setup: Setup }) {
  return <DeleteButton small name={setup.name} remove={useDelete("/api/v1/setups/{id}/", setup.id)} />;
}

function MergeForm({ car, setup, done }: { car: Schemas["Car"]; setup: Setup; done: () => void }) {
  const save = useMergeSetup(setup.id);
  const others = car.setups.filter((each) => each.id !== setup.id);
  return (
    <EntryForm first={{}} save={save} sent={(values: { into: number }) => values} done={done} submit="Merge">
      <p>
        Its runs, plans and recorders go to the other setup, and this one is deleted. Runs are timed again
        where the two differ.
      </p>
      <ChoiceField
        name="into"
        label="Merge into"
        required="Choose the setup that stays"
        options={others.map((each) => ({ value: each.id, label: each.name }))}
      />
    </EntryForm>
  );
}

function SplitForm({ setup, done }: { setup: Setup; done: () => void }) {
  const save = useSplitSetup(setup.id);
  return (
    <EntryForm
      first={{ name: "", change_note: "" }}
      save={save}
      sent={(values: Omit<Schemas["SplitRequest"], "since"> & { since: Dayjs }) => ({
        ...values,
        since: values.since.format("YYYY-MM-DD"),
      })}
      done={done}
      submit="Split"
    >
      <p>Runs from that day on get a setup of their own. It begins as a copy of this one.</p>
      <div className="form-grid">
        <DateField name="since" label="From this day on" required="Enter the date" />
        <TextField name="name" label="Name of the later setup" required="Enter a short name" most={80} />
        <ChoiceField name="change" label="What changed" required="Describe what changed" options={CHANGES} />
        <TextField name="change_note" label="Description of the change" most={300} />
      </div>
    </EntryForm>
  );
}

function changed(setup: Setup): string {
  const what = [setup.change, setup.change_note].filter(Boolean).join(": ");
  return setup.price ? `${what}, ${setup.price} ${setup.currency}` : what;
}

function wheels(setup: Setup, family: Family): string {
  const size = setup.wheel_diameter_in ? `${setup.wheel_diameter_in} in` : "–";
  return setup.wheel_mass_kg ? `${size}, ${withUnit(setup.wheel_mass_kg, "mass", family, 1)}` : size;
}

function tires(setup: Setup, family: Family): string {
  return [setup.tire_season, setup.tire_size, withUnit(setup.tire_pressure_kpa, "pressure", family)].join(
    ", ",
  );
}
