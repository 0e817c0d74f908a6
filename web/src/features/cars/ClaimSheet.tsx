import { Button } from "antd";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { CLOCK_NAMES } from "../../shared/measures";
import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, NumberField, TextField } from "../../shared/fields";
import { useSaveClaim } from "./queries";

const CLOCKS = [
  { value: "", label: "not stated" },
  { value: "first_movement", label: "first movement" },
  { value: "rollout", label: "rollout" },
];

type Claim = Schemas["ManufacturerClaim"];

/** What the maker says the car does, on which clock, and where that was said. */
export function ClaimSheet({ car, mayWrite }: { car: Schemas["Car"]; mayWrite: boolean }) {
  const [editing, setEditing] = useState<Claim | "new" | null>(null);
  const done = () => setEditing(null);
  return (
    <section className="sheet" aria-label="Manufacturer claims">
      <h2>Manufacturer claims</h2>
      {car.claims.length === 0 && <p className="quiet">No claims yet.</p>}
      {car.claims.map((each) => (
        <p key={each.id} className="row">
          <span>
            <strong>
              {each.measure} in {each.value_s.toFixed(1)} s
            </strong>
            , clock {each.clock ? CLOCK_NAMES[each.clock] : "not stated"}.{" "}
            <span className="quiet">{each.source}</span>
          </span>
          {mayWrite && (
            <>
              <Button size="small" aria-label={`Edit ${each.measure}`} onClick={() => setEditing(each)}>
                Edit
              </Button>
              <DeleteClaim claim={each} />
            </>
          )}
        </p>
      ))}
      {mayWrite && (
        <Button className="below" onClick={() => setEditing(editing ? null : "new")}>
          Add a claim
        </Button>
      )}
      {editing === "new" && <ClaimForm car={car.id} done={done} />}
      {editing !== null && editing !== "new" && (
        <ClaimForm key={editing.id} car={car.id} claim={editing} done={done} />
      )}
    </section>
  );
}

function DeleteClaim({ claim }: { claim: Claim }) {
  return (
    <DeleteButton
      small
      name={`the claim ${claim.measure}`}
      remove={useDelete("/api/v1/manufacturer-claims/{id}/", claim.id)}
    />
  );
}

function ClaimForm({ car, claim, done }: { car: number; claim?: Claim; done: () => void }) {
  const save = useSaveClaim(claim?.id);
  const [opened] = useState(claim);
  return (
    <EntryForm
      first={opened ?? { measure: "0-60 mph", clock: "" }}
      save={save}
      sent={(values: Schemas["ManufacturerClaimRequest"]) => ({ ...values, car, revision: opened?.revision })}
      done={done}
      submit="Save claim"
    >
      <div className="form-grid">
        <TextField name="measure" label="Measure" most={24} />
        <NumberField name="value_s" label="Time, s" required="Enter the time in seconds" step={0.1} />
        <ChoiceField name="clock" label="Clock" options={CLOCKS} />
        <TextField name="source" label="Published in" required="Enter the source" most={200} />
      </div>
    </EntryForm>
  );
}
