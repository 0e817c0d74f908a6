import { Alert, Button } from "antd";
import { useRef, useState, type ClipboardEvent, type KeyboardEvent } from "react";
import { Link, useSearchParams } from "react-router";

import { DataTable, type Column } from "../../shared/DataTable";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { StartLink } from "./StartLink";
import { useTitle } from "../../shared/useTitle";
import { cellKey, changesOf, filledDown, GRID_COLUMNS, pasted, stored, unitName, type Typed } from "./grid";
import type { ConditionField } from "./conditionFields";
import { useChangeEach, useRuns, type RunRow } from "./queries";

const STEPS: Record<string, number> = { ArrowUp: -1, ArrowDown: 1, Enter: 1 };

/** Conditions of several runs as a spreadsheet: arrows move, Ctrl-D fills down, cells can be pasted. */
export function GridPage() {
  useTitle("Conditions");
  const [search] = useSearchParams();
  const ids = search.get("ids") ?? "";
  const runs = useRuns({ ids: ids as never, sort: "start_utc", page_size: 500 }, ids !== "");
  if (!ids || runs.data?.count === 0)
    return (
      <Nothing title="No runs picked">
        <p>
          Pick runs in the <Link to="/runs">list</Link>, then edit them in a grid.
        </p>
      </Nothing>
    );
  if (runs.error) return <Failed error={runs.error} retry={() => void runs.refetch()} />;
  if (!runs.data) return <Loading what="the runs" />;
  return <Grid runs={runs.data.results} />;
}

function Grid({ runs }: { runs: readonly RunRow[] }) {
  const { family } = usePreferences();
  const [typed, setTyped] = useState<Typed>({});
  const save = useChangeEach();
  const sheet = useRef<HTMLElement>(null);
  const { rows, wrong } = changesOf(runs, typed, family);
  const textAt = (row: number, place: number, run: RunRow, column: ConditionField) =>
    typed[cellKey(row, place)] ?? stored(run, column, family);

  function onKey(event: KeyboardEvent<HTMLInputElement>, row: number, place: number) {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "d") {
      event.preventDefault();
      setTyped(filledDown(typed, event.currentTarget.value, row, place, runs.length));
      return;
    }
    const step = STEPS[event.key];
    if (step === undefined) return;
    event.preventDefault();
    sheet.current?.querySelector<HTMLInputElement>(`[data-cell="${cellKey(row + step, place)}"]`)?.focus();
  }

  function onPaste(event: ClipboardEvent, row: number, place: number) {
    const text = event.clipboardData.getData("text");
    if (!/[\t\n]/.test(text)) return;
    event.preventDefault();
    setTyped(pasted(typed, text, row, place, runs.length));
  }

  const columns = GRID_COLUMNS.map((column, place): Column<RunRow> => {
    const unit = unitName(column, family);
    return {
      title: unit ? `${column.label}, ${unit}` : column.label,
      value: (run, row) => (
        <input
          className={typed[cellKey(row, place)] === undefined ? "grid-cell" : "grid-cell changed"}
          data-cell={cellKey(row, place)}
          aria-label={`${column.label} of ${run.start_local}`}
          aria-invalid={wrong.includes(cellKey(row, place))}
          value={textAt(row, place, run, column)}
          onChange={(event) => setTyped({ ...typed, [cellKey(row, place)]: event.target.value })}
          onFocus={(event) => event.target.select()}
          onKeyDown={(event) => onKey(event, row, place)}
          onPaste={(event) => onPaste(event, row, place)}
        />
      ),
    };
  });
  return (
    <>
      <div className="page-head">
        <h1>Conditions of {runs.length} runs</h1>
        <span className="push row">
          <Button disabled={!Object.keys(typed).length} onClick={() => setTyped({})}>
            Discard
          </Button>
          <Button
            type="primary"
            disabled={!rows.length || wrong.length > 0}
            loading={save.isPending}
            onClick={() => save.mutate(rows, { onSuccess: () => setTyped({}) })}
          >
            Save {rows.length || ""} {rows.length === 1 ? "run" : "runs"}
          </Button>
        </span>
      </div>
      {wrong.length > 0 && (
        <Alert
          type="error"
          className="below"
          title="A marked cell holds no number. Another unit may stand behind it: 40 °C, 2.9 bar."
        />
      )}
      {save.error && <Alert type="error" className="below" title={save.error.message} />}
      <section ref={sheet} className="sheet scroll" aria-label="Grid">
        <DataTable
          rows={runs}
          rowKey={(run) => run.id}
          columns={[
            {
              title: "Run",
              value: (run) => <StartLink run={run} />,
            },
            { title: "Kind", value: (run) => run.kind },
            ...columns,
          ]}
        />
        <p className="quiet">
          Arrows and Enter move, <kbd>Ctrl D</kbd> fills down, and cells of a spreadsheet can be pasted.
        </p>
      </section>
    </>
  );
}
