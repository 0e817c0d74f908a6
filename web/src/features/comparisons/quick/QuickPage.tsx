import { Alert, AutoComplete, Button, Input } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { usePreferences } from "../../../shared/preferences";
import { Failed, Loading } from "../../../shared/States";
import { useTitle } from "../../../shared/useTitle";
import { useCars } from "../../cars/queries";
import type { SharedConditions, Upload } from "../../runs/imports";
import { useRuns, type RunRow } from "../../runs/queries";
import { useImport } from "../../runs/useImport";
import { askPath, type Ask } from "../ask";
import { usePreview, useSaveComparison } from "../queries";
import { VerdictSheet } from "../VerdictSheet";
import { askOf, lacking } from "./measure";
import { QuickSide } from "./QuickSide";
import { setupsOf, useMade } from "./useMade";

/** From two folders of logs to a verdict; car, setups, runs and comparison are like any others afterwards. */
export function QuickPage() {
  useTitle("Quick compare");
  const { family } = usePreferences();
  const [car, setCar] = useState("");
  const [change, setChange] = useState("");
  const [error, setError] = useState("");
  const before = useImport();
  const after = useImport();
  const made = useMade();
  const waits = car.trim() && change.trim() ? "" : "Name the car and what changed first.";
  async function take(side: "before" | "after", files: File[], conditions: SharedConditions) {
    if (files.length === 0) return;
    setError("");
    try {
      const setups = await made(car.trim(), change.trim());
      const sent = { ...conditions, setup: setups[side] };
      await { before, after }[side].start(files.map((file) => ({ file, conditions: sent, can: {} })));
    } catch (problem) {
      setError(problem instanceof Error ? problem.message : String(problem));
    }
  }
  const sides = [useRunsOf(before.uploads), useRunsOf(after.uploads)] as const;
  const ask = askOf(...sides, family);
  return (
    <>
      <div className="page-head">
        <h1>Quick compare</h1>
        <span className="quiet">Two folders of logs, one verdict.</span>
      </div>
      <WhatChanged car={car} setCar={setCar} change={change} setChange={setChange} />
      {error && <Alert type="error" className="below" title={error} />}
      {ask ? (
        <Answer ask={ask} title={`${car.trim()}: ${change.trim()}`} />
      ) : (
        before.uploads.length + after.uploads.length > 0 && (
          <p className="sheet" role="status">
            {lacking(...sides)}
          </p>
        )
      )}
      <div className="columns even">
        <QuickSide
          side="before"
          imports={before}
          waits={waits}
          take={(...what) => void take("before", ...what)}
        />
        <QuickSide
          side="after"
          imports={after}
          waits={waits}
          take={(...what) => void take("after", ...what)}
        />
      </div>
    </>
  );
}

/** The runs of all logs of a side that are stored by now. */
function useRunsOf(uploads: readonly Upload[]): readonly RunRow[] {
  const ids = uploads.flatMap((upload) => upload.log?.run_ids ?? []);
  const runs = useRuns({ ids: ids.join(",") as never, page_size: 500 }, ids.length > 0);
  return ids.length > 0 ? (runs.data?.results ?? []) : [];
}

function WhatChanged(props: {
  car: string;
  setCar: (name: string) => void;
  change: string;
  setChange: (name: string) => void;
}) {
  const { car, setCar, change, setChange } = props;
  const cars = useCars().data ?? [];
  const known = cars.find((each) => each.name.toLowerCase() === car.trim().toLowerCase());
  const before = known && setupsOf(known, change).before;
  return (
    <section className="sheet" aria-label="What changed">
      <div className="form-grid">
        <label>
          Car
          <AutoComplete
            aria-label="Car"
            placeholder="Name of the car"
            value={car}
            maxLength={80}
            onChange={setCar}
            options={cars.map(({ name }) => ({ value: name }))}
            showSearch={{ filterOption: true }}
          />
        </label>
        <label>
          What changed
          <Input
            placeholder="Update 7.2"
            value={change}
            maxLength={80}
            onChange={(event) => setChange(event.target.value)}
          />
        </label>
      </div>
      <p className="quiet">
        {known
          ? `Logs from before go to ${before ? `its setup ${before.name}` : "a new setup"}, those from after to ${
              change.trim() || "the change"
            }.`
          : "A car that is not there yet is made, with a setup for each side."}
      </p>
    </section>
  );
}

function Answer({ ask, title }: { ask: Ask; title: string }) {
  const preview = usePreview(ask);
  const save = useSaveComparison();
  const navigate = useNavigate();
  const pair = preview.data?.pairs[0];
  if (preview.error) return <Failed error={preview.error} />;
  if (!preview.data || !pair) return <Loading what="the comparison" />;
  return (
    <>
      <VerdictSheet result={preview.data} pair={pair} />
      <div className="save-line">
        <span className="quiet">{ask.measure}</span>
        <Link to={askPath(ask)}>Other measures, conditions and reasons</Link>
        <Button
          type="primary"
          className="push"
          loading={save.isPending}
          onClick={() =>
            save.mutate({ ...ask, title }, { onSuccess: (saved) => void navigate(`/compare/${saved.id}`) })
          }
        >
          Save comparison
        </Button>
        {save.error && <Alert type="error" title={save.error.message} />}
      </div>
    </>
  );
}
