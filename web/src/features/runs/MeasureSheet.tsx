import { Alert, Button, Checkbox, Input, Popover } from "antd";
import { useState } from "react";

import { useStored } from "../../shared/preferences";
import type { Family } from "../../shared/units";
import { inFamily } from "../../shared/measures";
import { StopTable, TimeTable, type Row } from "./MeasureTables";
import { useCorrected, useNamed, type CorrectionAsk, type Run } from "./queries";

const PARTS: [keyof CorrectionAsk, string][] = [
  ["slope", "slope"],
  ["density", "air density"],
  ["wind", "wind"],
];

/** Every measure that the run reached: which are shown, uncorrected beside corrected, and as a file. */
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
        <span className="push row">
          <MeasureChoice {...{ names, hidden, setHidden, named, setNamed }} canName={run.kind !== "stop"} />
          <Popover content={<Files id={run.id} />} trigger="click" placement="bottomRight">
            <Button>Files</Button>
          </Popover>
        </span>
      </div>
      {refused && <Alert type="error" title={refused.message} className="below" />}
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
    <p className="flush below row">
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
    <div className="stack pick wide">
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
            Another measure
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
          Remove {named.join(", ")}
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
    ["Measures, CSV", `/api/v1/runs/${id}/measures/csv/`],
    ["Measures, JSON", `/api/v1/runs/${id}/measures/json/`],
    ["Fixes, CSV", `/api/v1/runs/${id}/trace/csv/`],
    ["Fixes, GPX", `/api/v1/runs/${id}/trace/gpx/`],
    ["Fixes, Parquet", `/api/v1/runs/${id}/trace/parquet/`],
  ];
  return (
    <div className="stack">
      {files.map(([name, path]) => (
        <a key={path} href={path} download>
          {name}
        </a>
      ))}
    </div>
  );
}
