import { Term } from "../../shared/Term";
import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { Facts } from "../../shared/Facts";
import { withUnit, type Family } from "../../shared/units";
import { useSession } from "../accounts/session";
import { CONDITION_FIELDS, type ConditionField } from "./conditionFields";
import { ConditionsForm } from "./ConditionsForm";
import type { Run } from "./queries";

export function Conditions({ run }: { run: Run }) {
  const { person } = useSession();
  const { family } = usePreferences();
  const [editing, setEditing] = useState(false);
  const written = CONDITION_FIELDS.filter(({ name }) => run[name] !== null && run[name] !== "");
  return (
    <section className="sheet" aria-label="Conditions">
      <div className="page-head">
        <h2>
          Conditions
          <Term word="condition" />
        </h2>
        <span className="push">
          {person?.may_write && !editing && (
            <Button onClick={() => setEditing(true)}> Edit conditions</Button>
          )}
        </span>
      </div>
      {editing ? (
        <ConditionsForm run={run} done={() => setEditing(false)} />
      ) : (
        <>
          {written.length === 0 && <p>No conditions yet. Add charge and battery temperature first.</p>}
          <Facts rows={written.map((field) => [labelOf(run, field), shownValue(run, field, family)])} />
          {run.notes && <p className="as-typed">{run.notes}</p>}
        </>
      )}
      {run.can_log && <CanLine log={run.can_log} />}
      <p className="label">
        Log <Link to={`/logs/${run.log}`}>{run.log_name}</Link>, {run.rate_hz.toFixed(0)} Hz, noise{" "}
        {run.noise_mps.toFixed(3)} m/s, timed by core {run.core_version}
      </p>
    </section>
  );
}

function CanLine({ log }: { log: NonNullable<Run["can_log"]> }) {
  const percent = (log.over_reading - 1) * 100;
  return (
    <p className="label">
      CAN log {log.name} ({log.format}), {aligned(log.offset_s, log.offset_u95_s)}; the dashboard{" "}
      {percent >= 0 ? "over-reads" : "under-reads"} by {Math.abs(percent).toFixed(1)}
      {"\u00a0%"}
    </p>
  );
}

/** What was spread over the runs of a log, and not read at this one, says so. */
function labelOf(run: Run, field: ConditionField): string {
  const estimated = (run.estimated as string[]).includes(field.name);
  return estimated ? `${field.label}, estimated` : field.label;
}

function shownValue(run: Run, field: ConditionField, family: Family): string {
  const value = run[field.name];
  if (field.yesNo) return value ? "on" : "off";
  return field.kind && typeof value === "number" ? withUnit(value, field.kind, family) : String(value);
}

const DAY_S = 86_400;

/** How the CAN log's clock relates to the receiver's; one that counts from long before is not worth its digits. */
function aligned(offset_s: number, u95_s: number): string {
  if (Math.abs(offset_s) > DAY_S) return `aligned to the log within ± ${u95_s.toFixed(3)} s`;
  const sign = offset_s >= 0 ? "+" : "−";
  return `its clock ${sign}${Math.abs(offset_s).toFixed(3)} s ± ${u95_s.toFixed(3)} s to the log's start`;
}
