import { Suspense } from "react";
import { useParams } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { Failed, Loading } from "../../shared/States";
import { Conditions } from "./Conditions";
import { Decision } from "./Decision";
import { Flags } from "./Flags";
import { MeasureTable } from "./MeasureTable";
import { dayAndTime } from "./measures";
import { useRun } from "./queries";
import { RunAnswer } from "./RunAnswer";
import { RunCharts } from "./RunCharts";
import { SplitTable } from "./SplitTable";
import { KINDS } from "./columns";

/** A run is one sheet: the answer, the curve, the numbers, the conditions. */
export function RunSheet() {
  const id = Number(useParams().id);
  const { data: run, error, isPending, refetch } = useRun(id);
  const { family } = usePreferences();
  if (isPending) return <Loading what="the run" />;
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  return (
    <>
      <div className="page-head">
        <h1>
          {run.car_name} · {run.set_up_name}
        </h1>
        <span className="quiet">
          {KINDS[run.kind]} · {dayAndTime(run.start_utc)} UTC
          {run.course_name && ` · ${run.course_name}${run.direction ? `, ${run.direction}` : ""}`}
        </span>
        <span className="push">
          <Decision run={run} />
        </span>
      </div>
      <div className="columns">
        <div>
          <RunAnswer run={run} family={family} />
          <Flags flags={run.flags} />
          <Suspense fallback={<Loading what="the chart" />}>
            <RunCharts run={run} />
          </Suspense>
          {run.splits.length > 0 && <SplitTable splits={run.splits} family={family} />}
        </div>
        <div>
          <MeasureTable run={run} family={family} />
          <Conditions run={run} />
        </div>
      </div>
    </>
  );
}
