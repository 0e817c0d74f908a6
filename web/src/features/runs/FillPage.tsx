import { Button, Input, Radio } from "antd";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, body, type Schemas } from "../../api/client";
import { StartLink } from "./StartLink";
import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit, type Kind } from "../../shared/units";
import { useSettled } from "../../shared/useSettled";
import { DataTable, type Column } from "../../shared/DataTable";
import { useRuns, type RunRow } from "./queries";
import { usePreview } from "./usePreview";

type Row = Schemas["PastedRow"];
type Condition =
  "charge_before_percent" | "charge_after_percent" | "battery_temp_before_c" | "battery_temp_after_c";
const EXAMPLE = "charge before\tcharge after\tbattery before\tbattery after";

/** What nobody recorded on the day: the runs that lack it, and a place to paste a spreadsheet's columns. */
export function FillPage() {
  useTitle("Missing conditions");
  const { family, car } = usePreferences();
  const runs = useRuns({ gaps: true, sort: "start_utc", ...(car ? { car } : {}) });
  const [text, setText] = useState("");
  const [fahrenheit, setFahrenheit] = useState(family === "us");
  const asked = {
    text: useSettled(text),
    runs: runs.data?.results.map((run) => run.id) ?? [],
    fahrenheit,
    apply: false,
  };
  const preview = usePreview(asked);
  const write = useWriteDown(() => setText(""));
  if (runs.error) return <Failed error={runs.error} retry={() => void runs.refetch()} />;
  if (!runs.data) return <Loading what="the runs" />;
  if (!runs.data.count)
    return (
      <Nothing title="Nothing is missing">
        <p>
          Every run has its charge and battery temperature. <Link to="/runs">Runs</Link>
        </p>
      </Nothing>
    );
  const rows = preview.data?.rows ?? [];
  const wrong = rows.some((row) => row.wrong.length);
  return (
    <>
      <div className="page-head">
        <h1>Add missing conditions</h1>
        <span className="quiet">
          {runs.data.count === 1 ? "1 run lacks" : `${runs.data.count} runs lack`} charge or battery
          temperature
        </span>
      </div>
      <section className="sheet" aria-label="Paste">
        <label>
          Spreadsheet rows, one per run, in the order below or with a time column
          <Input.TextArea
            rows={5}
            value={text}
            placeholder={EXAMPLE}
            onChange={(event) => setText(event.target.value)}
            className="mono"
          />
        </label>
        <Radio.Group
          aria-label="Temperatures are in"
          className="above below"
          value={fahrenheit}
          onChange={(event) => setFahrenheit(event.target.value as boolean)}
          options={[
            { value: false, label: "temperatures in °C" },
            { value: true, label: "temperatures in °F" },
          ]}
        />
        {preview.data?.doubts.map((doubt) => (
          <p key={doubt} className="flag caution">
            {doubt}
          </p>
        ))}
        {write.error && <p className="flag void">{write.error.message}</p>}
        <Button
          type="primary"
          disabled={!rows.length || wrong}
          loading={write.isPending}
          onClick={() => write.mutate({ ...asked, apply: true })}
        >
          Save {rows.length || ""} {rows.length === 1 ? "row" : "rows"}
        </Button>
      </section>
      <PreviewTable runs={runs.data.results} rows={rows} />
    </>
  );
}

/** Every run with the row that would go to it; rows that go nowhere stand below. */
function PreviewTable({ runs, rows }: { runs: RunRow[]; rows: Row[] }) {
  const { family } = usePreferences();
  const rowOf = (place: number) => rows.find((row) => row.run === place);
  const condition = (title: string, name: Condition, kind: Kind): Column<RunRow> => ({
    title,
    number: true,
    value: (run, place) => withUnit(rowOf(place)?.values[name] ?? run[name], kind, family),
  });
  const lost = rows.filter((row) => row.run === null);
  return (
    <section className="sheet" aria-label="Runs with gaps">
      <DataTable
        rows={runs}
        rowKey={(run) => run.id}
        columns={[
          {
            title: "Run",
            value: (run) => <StartLink run={run} />,
          },
          { title: "Setup", wrap: true, value: (run) => `${run.car_name}, ${run.setup_name}` },
          condition("Charge before", "charge_before_percent", "percent"),
          condition("after", "charge_after_percent", "percent"),
          condition("Battery before", "battery_temp_before_c", "temperature"),
          condition("after", "battery_temp_after_c", "temperature"),
          { title: "To check", wrap: true, value: (_, place) => <ToCheck row={rowOf(place)} /> },
        ]}
      />
      {lost.map((row) => (
        <p key={row.line} className="flag void">
          Line {row.line}: {row.wrong.join("; ")}
        </p>
      ))}
    </section>
  );
}

function ToCheck({ row }: { row: Row | undefined }) {
  return (
    <>
      {row?.wrong.map((each) => (
        <div key={each} className="flag void">
          Line {row.line}: {each}
        </div>
      ))}
      {row?.questions.map((each) => (
        <div key={each.field} className="flag caution">
          Line {row.line}: {each.sentence}
        </div>
      ))}
      {row?.doubts.map((each) => (
        <div key={each} className="flag caution">
          Line {row.line}: {each}
        </div>
      ))}
    </>
  );
}

function useWriteDown(done: () => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (asked: Schemas["PastedRequest"]) =>
      body(await api.POST("/api/v1/runs/conditions/", { body: asked })),
    onSuccess: async () => {
      done();
      await client.invalidateQueries({ queryKey: ["runs"] });
    },
  });
}
