import { type ReactNode } from "react";
import { Link, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { PointerProvider } from "../../shared/pointer";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading } from "../../shared/States";
import { HistorySheet } from "../history/HistorySheet";
import { Attachments } from "./Attachments";
import { Conditions } from "./Conditions";
import { Decision } from "./Decision";
import { Flags } from "./Flags";
import { MeasureSheet } from "./MeasureSheet";
import { toTheMinute } from "../../shared/dates";
import { When } from "../../shared/When";
import { PowerChart } from "./PowerChart";
import { useCurve, useRun, type Run } from "./queries";
import { RunAnswer } from "./RunAnswer";
import { RunCharts } from "./RunCharts";
import { SplitTable } from "./SplitTable";
import { TrackMap } from "./TrackMap";
import { Undated } from "./Undated";
import { KINDS } from "./columns";

/** A run is one sheet: the answer, the curve, the numbers, the conditions. */
export function RunSheet({ beside }: { beside: (run: Run) => ReactNode }) {
  const id = Number(useParams().id);
  const { data: run, error, isPending, refetch } = useRun(id);
  useTitle(run && `Run of ${toTheMinute(run.start_local)}`);
  const { family } = usePreferences();
  if (isPending) return <Loading what="the run" />;
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  return (
    <PointerProvider>
      <div className="page-head">
        <h1>
          {run.car_name} · {run.setup_name}
        </h1>
        <span className="quiet">
          {KINDS[run.kind]} · <When of={run} />
          {run.course_name && ` · ${run.course_name}${run.direction ? `, ${run.direction}` : ""}`}
        </span>
        <span className="push acts no-print">
          {run.kind === "standing" && <Link to={`/runs/${run.id}/slip`}>Slip</Link>}
          {beside(run)}
          <Decision run={run} />
        </span>
      </div>
      <div className="columns">
        <div>
          <RunAnswer run={run} family={family} />
          <Undated run={run} />
          {run.retiming_trouble && (
            <p className="flag caution">
              <strong>Could not be timed again:</strong> {run.retiming_trouble}
            </p>
          )}
          <Flags flags={run.flags} />
          <Curves run={run} />
          {run.splits.length > 0 && <SplitTable splits={run.splits} family={family} />}
        </div>
        <div>
          <MeasureSheet run={run} family={family} />
          <Conditions run={run} />
          <Track run={run} />
          <Attachments run={run} />
          <HistorySheet of={`runs.run:${run.id}`} />
        </div>
      </div>
    </PointerProvider>
  );
}

/** Everything that is drawn; one pointer goes through all of it. */
function Curves({ run }: { run: Run }) {
  const curve = useCurve(run.id);
  if (curve.error) return <Failed error={curve.error} retry={() => void curve.refetch()} />;
  if (!curve.data) return <Loading what="the curve" />;
  return (
    <>
      <RunCharts run={run} data={curve.data} />
      {run.kind !== "stop" && <PowerChart run={run} curve={curve.data.curve} />}
    </>
  );
}

function Track({ run }: { run: Run }) {
  const { data } = useCurve(run.id);
  if (!data) return null;
  return <TrackMap fixes={data.fixes} end_s={data.curve.since_s.at(-1) ?? 0} />;
}
