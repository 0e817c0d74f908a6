import { Alert, Button, Checkbox, Input, Popover } from "antd";
import { useState } from "react";

import { useStored } from "../../shared/preferences";
import type { Family } from "../../shared/units";
import { inFamily } from "./measures";
import { StopTable, TimeTable, type Row } from "./MeasureTables";
import { useCorrected, useNamed, type CorrectionAsk, type Run } from "./queries";

const PARTS: [keyof CorrectionAsk, string][] = [
  ["slope", "slope"],
  ["density", "air density"],
  ["wind", "wind"],
];

/** Every measure that the run reached: which are shown, raw beside corrected, and as a file. */
export function MeasureSheet({ run, family }: { run: Run; family: Family }) {
  const [hidden, setHidden] = useStored<string[]>("measures-hidden", []);
  const [named, setNamed] = useStored<string[]>("measures-named", []);
  const [ask, setAsk] = useStored<CorrectionAsk>("correction", { slope: true });
  const corrected = useCorrected(run.id, run.kind === "stop" ? {} : ask);
  const asked = Object.values(ask).some(Boolean);
  const extra = useNamed(run.id, run.kind === "stop" ? [] : named);
  const known = run.measured.map((row) => row.name);
  const rows: Row[] = [...run.measured, ...extra.flatMap((each) => each.data ?? [])]
    .filter((row, index) => index < known.length || !known.includes(row.name))
    .filter((row) => named.includes(row.name) || inFamily(row.name, family));
  const names = [...new Set(rows.map((row) => row.name))];
  const shown = rows.filter((row) => !hidden.includes(row.name));
  const refused = extra.find((each) => each.error)?.error;
  return (
    <section className="sheet" aria-label="Measures">
      <div className="page-head">
        <h2>Measures</h2>
        <span className="push" style={{ display: "flex", gap: 8 }}>
          <MeasureChoice {...{ names, hidden, setHidden, named, setNamed }} canName={run.kind !== "stop"} />
          <Popover content={<Files id={run.id} />} trigger="click" placement="bottomRight">
            <Button>Files</Button>
          </Popover>
        </span>
      </div>
      {refused && <Alert type="error" title={refused.message} style={{ marginBottom: 8 }} />}
      {run.kind !== "stop" && <CorrectionSwitch ask={ask} setAsk={setAsk} />}
      {shown.length === 0 ? (
        <p>No measure was reached, or all are hidden.</p>
      ) : run.kind === "stop" ? (
        <StopTable rows={shown} family={family} />
      ) : (
        <TimeTable rows={shown} family={family} corrected={asked ? (corrected.data ?? null) : null} />
      )}
    </section>
  );
}

function CorrectionSwitch({ ask, setAsk }: { ask: CorrectionAsk; setAsk: (ask: CorrectionAsk) => void }) {
  return (
    <p style={{ margin: "0 0 6px", display: "flex", gap: 8, flexWrap: "wrap", alignItems: "baseline" }}>
      <span className="label">Corrected for</span>
      {PARTS.map(([part, word]) => (
        <Checkbox
          key={part}
          checked={ask[part] ?? false}
          onChange={(event) => setAsk({ ...ask, [part]: event.target.checked })}
        >
          {word}
        </Checkbox>
      ))}
    </p>
  );
}

interface Choice {
  names: string[];
  hidden: string[];
  setHidden: (names: string[]) => void;
  named: string[];
  setNamed: (names: string[]) => void;
  canName: boolean;
}

function MeasureChoice({ names, hidden, setHidden, named, setNamed, canName }: Choice) {
  const [typed, setTyped] = useState("");
  const list = (
    <div style={{ display: "grid", gap: 4, minWidth: 220 }}>
      {names.map((name) => (
        <Checkbox
          key={name}
          checked={!hidden.includes(name)}
          onChange={(event) =>
            setHidden(event.target.checked ? hidden.filter((each) => each !== name) : [...hidden, name])
          }
        >
          {name}
        </Checkbox>
      ))}
      {canName && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (typed.trim()) setNamed([...new Set([...named, typed.trim()])]);
            setTyped("");
          }}
        >
          <label htmlFor="named-interval" className="label">
            Another interval
          </label>
          <Input
            id="named-interval"
            placeholder="50-80 mph"
            value={typed}
            maxLength={24}
            onChange={(event) => setTyped(event.target.value)}
          />
        </form>
      )}
      {named.length > 0 && (
        <Button size="small" onClick={() => setNamed([])}>
          Forget {named.join(", ")}
        </Button>
      )}
    </div>
  );
  return (
    <Popover content={list} trigger="click" placement="bottomRight">
      <Button>Choose</Button>
    </Popover>
  );
}

function Files({ id }: { id: number }) {
  const files: [string, string][] = [
    ["Measures, CSV", `/api/runs/${id}/measures/csv/`],
    ["Measures, JSON", `/api/runs/${id}/measures/json/`],
    ["Fixes, CSV", `/api/runs/${id}/trace/csv/`],
    ["Fixes, GPX", `/api/runs/${id}/trace/gpx/`],
    ["Fixes, Parquet", `/api/runs/${id}/trace/parquet/`],
  ];
  return (
    <div style={{ display: "grid", gap: 6 }}>
      {files.map(([name, path]) => (
        <a key={path} href={path} download>
          {name}
        </a>
      ))}
    </div>
  );
}
