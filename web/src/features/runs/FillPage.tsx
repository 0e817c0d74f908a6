import { Button, Input, Radio } from "antd";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, body, type Schemas } from "../../api/client";
import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit } from "../../shared/units";
import { useSettled } from "../../shared/useSettled";
import { toTheSecond } from "./measures";
import { useRuns, type RunRow } from "./queries";
import { usePreview } from "./usePreview";

type Row = Schemas["PastedRow"];
const EXAMPLE = "charge before\tcharge after\tpack before\tpack after";

/** What nobody wrote down on the day: the runs that lack it, and a place to paste a spreadsheet's columns. */
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
    write_down: false,
  };
  const preview = usePreview(asked);
  const write = useWriteDown(() => setText(""));
  if (runs.error) return <Failed error={runs.error} retry={() => void runs.refetch()} />;
  if (!runs.data) return <Loading what="the runs" />;
  if (!runs.data.count)
    return (
      <Nothing title="Nothing is missing">
        <p>
          Every pull has its charge and pack temperature. <Link to="/runs">Runs</Link>
        </p>
      </Nothing>
    );
  const rows = preview.data?.rows ?? [];
  const wrong = rows.some((row) => row.wrong.length);
  return (
    <>
      <div className="page-head">
        <h1>Fill in what is missing</h1>
        <span className="quiet">{runs.data.count} pulls lack charge or pack temperature</span>
      </div>
      <section className="sheet" aria-label="Paste">
        <label>
          Rows of a spreadsheet, one a run, in the order below or with a column of times
          <Input.TextArea
            rows={5}
            value={text}
            placeholder={EXAMPLE}
            onChange={(event) => setText(event.target.value)}
            style={{ fontFamily: "monospace" }}
          />
        </label>
        <Radio.Group
          aria-label="Temperatures are in"
          style={{ margin: "8px 0" }}
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
          onClick={() => write.mutate({ ...asked, write_down: true })}
        >
          Write down {rows.length || ""} {rows.length === 1 ? "row" : "rows"}
        </Button>
      </section>
      <PreviewTable runs={runs.data.results} rows={rows} />
    </>
  );
}

/** Every run with the row that would go to it; rows that go nowhere stand below. */
function PreviewTable({ runs, rows }: { runs: RunRow[]; rows: Row[] }) {
  const lost = rows.filter((row) => row.run === null);
  return (
    <section className="sheet" aria-label="Runs with gaps">
      <div className="scroll">
        <table className="plain">
          <thead>
            <tr>
              <th>Run, UTC</th>
              <th>Set-up</th>
              <th className="n">Charge before</th>
              <th className="n">after</th>
              <th className="n">Pack before</th>
              <th className="n">after</th>
              <th>To look at</th>
            </tr>
          </thead>
          <tbody>
            {runs.map((run, place) => (
              <RunLine key={run.id} run={run} row={rows.find((row) => row.run === place)} />
            ))}
          </tbody>
        </table>
      </div>
      {lost.map((row) => (
        <p key={row.line} className="flag void">
          Line {row.line}: {row.wrong.join("; ")}
        </p>
      ))}
    </section>
  );
}

function RunLine({ run, row }: { run: RunRow; row: Row | undefined }) {
  const { family } = usePreferences();
  const pasted = (name: string) => row?.values[name];
  return (
    <tr>
      <td>
        <Link to={`/runs/${run.id}`}>{toTheSecond(run.start_utc)}</Link>
      </td>
      <td>
        {run.car_name}, {run.set_up_name}
      </td>
      <td className="n">
        {withUnit(pasted("charge_before_percent") ?? run.charge_before_percent, "percent", family)}
      </td>
      <td className="n">{withUnit(pasted("charge_after_percent"), "percent", family)}</td>
      <td className="n">
        {withUnit(pasted("pack_temp_before_c") ?? run.pack_temp_before_c, "temperature", family)}
      </td>
      <td className="n">{withUnit(pasted("pack_temp_after_c"), "temperature", family)}</td>
      <td>
        {row?.wrong.map((each) => (
          <div key={each} className="flag void">
            Line {row.line}: {each}
          </div>
        ))}
        {row?.doubts.map((each) => (
          <div key={each} className="flag caution">
            Line {row.line}: {each}
          </div>
        ))}
      </td>
    </tr>
  );
}

function useWriteDown(done: () => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (asked: Schemas["PastedRequest"]) =>
      body(await api.POST("/api/runs/pasted/", { body: asked })),
    onSuccess: async () => {
      done();
      await client.invalidateQueries({ queryKey: ["runs"] });
    },
  });
}
