import { Alert } from "antd";
import { useMemo } from "react";

import { Chart, palette } from "../../shared/chartStyle";
import { DataTable } from "../../shared/DataTable";
import { Measured } from "../../shared/Measured";
import { usePreferences } from "../../shared/preferences";
import { SaveChart } from "../../shared/SaveChart";
import { digitsFor, fixed, shown, unitOf, type Family } from "../../shared/units";
import { DriveMap } from "./DriveMap";
import { kindOf, optionOf, titleOf } from "./picture";
import type { Axis, StudyChart, StudyResult, StudyTable } from "./queries";

/** What a study says: the sentences largest, the picture that answers, then tables; or why it can't say anything. */
export function StudyAnswer({ result, move }: { result: StudyResult; move?: (place: number) => void }) {
  const map = result.drive && <DriveMap drive={result.drive} {...(move ? { move } : {})} />;
  if (result.trouble)
    return (
      <>
        <section className="sheet" role="alert">
          <h2>Nothing can be said yet</h2>
          <p>{result.trouble}</p>
        </section>
        {map}
      </>
    );
  const [first, ...others] = result.charts;
  return (
    <>
      <section className="sheet" aria-label="Answer">
        {result.sentences.map((sentence, place) => (
          <p key={place} className={place === 0 ? "finding" : "finding lesser"}>
            {unbroken(sentence)}
          </p>
        ))}
        {result.cautions.map((caution) => (
          <Alert key={caution} type="warning" className="below" title={caution} />
        ))}
        {first && <Picture chart={first} height={360} />}
      </section>
      {others.length > 0 && (
        <div className={others.length > 1 ? "columns even" : ""}>
          {others.map((chart) => (
            <section key={chart.title} className="sheet">
              <Picture chart={chart} height={260} titled />
            </section>
          ))}
        </div>
      )}
      {map}
      {result.tables.map((table) => (
        <NumberTable key={table.title} table={table} />
      ))}
    </>
  );
}

/** A number stays on one line with its unit. */
function unbroken(sentence: string): string {
  return sentence.replace(/(\d) (%|s|m|ft|Wh|g|kW)(?=[\s,;.)]|$)/g, "$1\u00a0$2");
}

function Picture({ chart, height, titled = false }: { chart: StudyChart; height: number; titled?: boolean }) {
  const { family, mode } = usePreferences();
  const option = useMemo(() => optionOf(chart, family, palette(mode)), [chart, family, mode]);
  return (
    <>
      {titled && <h2>{chart.title}</h2>}
      <Chart option={option} height={height} label={`${chart.title}: ${chart.series.length} series`} />
      <SaveChart option={() => optionOf(chart, family, palette("light"))} name={chart.title} />
    </>
  );
}

function NumberTable({ table }: { table: StudyTable }) {
  const { family } = usePreferences();
  const rows = table.rows.map((cells, place) => ({ cells, place }));
  return (
    <section className="sheet scroll">
      <h2>{table.title}</h2>
      <DataTable
        label={table.title}
        rows={rows}
        rowKey={(row) => row.place}
        columns={table.columns.map((column, place) => ({
          title: titleOf(column, family),
          number: rows.some(({ cells }) => cells[place]?.value != null),
          value: ({ cells }: { cells: StudyTable["rows"][number] }) => (
            <Cell cell={cells[place]} of={column} family={family} />
          ),
        }))}
      />
    </section>
  );
}

type Cell = StudyTable["rows"][number][number];

function Cell({ cell, of, family }: { cell: Cell | undefined; of: Axis; family: Family }) {
  if (cell?.value == null) return <>{cell?.text ?? "–"}</>;
  const kind = kindOf(of);
  const unit = unitOf(kind, family);
  const value = kind === "temperature" ? shown(cell.value, kind, family) : cell.value / unit.factor;
  if (cell.u95 === null) {
    const whole = kind === "plain" && Number.isInteger(value);
    return <>{fixed(value, whole ? 0 : Math.max(unit.digits, kind === "plain" ? 2 : unit.digits))}</>;
  }
  const half = cell.u95 / unit.factor;
  return <Measured value={value} u95={half} digits={digitsFor(half, unit.digits)} />;
}
