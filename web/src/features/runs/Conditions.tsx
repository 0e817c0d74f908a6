import { Button } from "antd";
import { useState } from "react";

import { usePreferences } from "../../shared/preferences";
import { withUnit, type Family } from "../../shared/units";
import { useSession } from "../accounts/session";
import { CONDITION_FIELDS, type ConditionField } from "./conditionFields";
import { ConditionsForm } from "./ConditionsForm";
import { dayAndTime } from "./measures";
import type { Run } from "./queries";

export function Conditions({ run }: { run: Run }) {
  const { person } = useSession();
  const { family } = usePreferences();
  const [editing, setEditing] = useState(false);
  const written = CONDITION_FIELDS.filter(({ name }) => run[name] !== null && run[name] !== "");
  return (
    <section className="sheet" aria-label="Conditions">
      <div className="page-head">
        <h2>Conditions</h2>
        <span className="push">
          {person?.may_write && !editing && <Button onClick={() => setEditing(true)}>Write down</Button>}
        </span>
      </div>
      {editing ? (
        <ConditionsForm run={run} done={() => setEditing(false)} />
      ) : (
        <>
          {written.length === 0 && <p>Nothing written down yet. Charge and pack temperature matter most.</p>}
          <dl className="facts">
            {written.map((field) => (
              <div key={field.name}>
                <dt>{field.label}</dt>
                <dd>{told(run, field, family)}</dd>
              </div>
            ))}
          </dl>
          {run.notes && <p style={{ whiteSpace: "pre-wrap" }}>{run.notes}</p>}
        </>
      )}
      <Edits edits={run.edits} />
      {run.bus && <BusLine bus={run.bus} />}
      <p className="label">
        Log {run.log_name}, {run.rate_hz.toFixed(0)} Hz, noise {run.noise_mps.toFixed(3)} m/s, timed by core{" "}
        {run.core_version}
      </p>
    </section>
  );
}

function BusLine({ bus }: { bus: NonNullable<Run["bus"]> }) {
  const percent = (bus.over_reading - 1) * 100;
  return (
    <p className="label">
      CAN log {bus.name} ({bus.format}), {aligned(bus.offset_s, bus.offset_u95_s)}; the dashboard{" "}
      {percent >= 0 ? "over-reads" : "under-reads"} by {Math.abs(percent).toFixed(1)}
      {"\u00a0%"}
    </p>
  );
}

function told(run: Run, field: ConditionField, family: Family): string {
  const value = run[field.name];
  if (field.yesNo) return value ? "on" : "off";
  return field.kind && typeof value === "number" ? withUnit(value, field.kind, family) : String(value);
}

function Edits({ edits }: { edits: Run["edits"] }) {
  if (!edits.length) return null;
  return (
    <details>
      <summary>{edits.length} later changes</summary>
      <ul>
        {edits.map((edit) => (
          <li key={`${edit.edited_at} ${edit.field}`}>
            {dayAndTime(edit.edited_at)} {edit.edited_by}: {edit.field.replaceAll("_", " ")}{" "}
            {edit.old_value || "(empty)"} → {edit.new_value || "(empty)"}
          </li>
        ))}
      </ul>
    </details>
  );
}

const DAY_S = 86_400;

/** How the bus's clock lies to the log's; one that counts from long before is not worth its digits. */
function aligned(offset_s: number, u95_s: number): string {
  if (Math.abs(offset_s) > DAY_S) return `aligned to the log within ± ${u95_s.toFixed(3)} s`;
  const sign = offset_s >= 0 ? "+" : "−";
  return `its clock ${sign}${Math.abs(offset_s).toFixed(3)} s ± ${u95_s.toFixed(3)} s to the log's start`;
}
