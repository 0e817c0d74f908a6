import { useMemo } from "react";

import { axis, Chart, palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { shown } from "../../shared/units";
import { StripParts } from "../courses/StripParts";
import { isStop, useAmount } from "./amount";
import { OrderLine } from "./OrderLine";
import type { Advice, PlanAsk } from "./queries";

type Asked = Pick<
  PlanAsk,
  "measure" | "smallest_difference" | "runs_per_arm" | "days_per_arm" | "can_alternate" | "power"
>;

/** What a plan says about itself: how many runs, what they could show, what is confounded, what it costs. */
export function AdviceSheet({ advice, ask }: { advice: Advice; ask: Asked }) {
  return (
    <>
      <section className="sheet" aria-label="How many runs">
        {advice.size ? <SizeAnswer size={advice.size} ask={ask} /> : <Count advice={advice} />}
        {advice.confounded.map((each) => (
          <p className="flag caution" key={each.what}>
            {each.sentence} {each.avoided_by && `The order ${each.avoided_by} avoids it.`}
          </p>
        ))}
        <OrderLine days={advice.days} />
        <Cost advice={advice} />
      </section>
      <section className="sheet" aria-label="Strip length">
        <h2>The strip</h2>
        <StripParts check={advice.strip} />
      </section>
      {advice.size && (
        <section className="sheet">
          <h2>What n runs per group could show</h2>
          <CurveChart size={advice.size} ask={ask} />
          <p className="label">Scatter: {advice.size.scatter_source}.</p>
        </section>
      )}
    </>
  );
}

function Count({ advice }: { advice: Advice }) {
  return (
    <p className="answer" data-testid="runs-needed">
      {advice.run_count} <small>runs</small>
    </p>
  );
}

function SizeAnswer({ size, ask }: { size: NonNullable<Advice["size"]>; ask: Asked }) {
  const amount = useAmount(ask.measure ?? "");
  const matters = amount(ask.smallest_difference);
  const days = ask.can_alternate === false ? ` on ${ask.days_per_arm} days each` : "";
  return (
    <>
      <p className="answer" data-testid="runs-needed" style={{ margin: 0 }}>
        {size.runs_needed ?? (size.days_needed ? size.days_needed : "no")}{" "}
        <small>
          {size.runs_needed ? "runs per group" : size.days_needed ? "days per group" : "number of runs"}
        </small>
      </p>
      <p>
        {size.runs_needed
          ? `find a difference of ${matters} in ${100 * (ask.power ?? 0.8)} of 100 tests${days}.`
          : size.days_needed
            ? `are needed to find ${matters}: on fewer, the car's own scatter from day to day hides it.`
            : `up to 60 finds ${matters}: this car scatters more than that.`}{" "}
        {size.smallest_found !== null && (
          <>
            The {ask.runs_per_arm} planned show <strong>{amount(size.smallest_found)}</strong> or more, and
            find {matters} with a chance of {Math.round(100 * (size.power ?? 0))} %.
          </>
        )}
      </p>
    </>
  );
}

function Cost({ advice }: { advice: Advice }) {
  const left = advice.runs_left;
  return (
    <dl className="facts">
      <div>
        <dt>Runs in all</dt>
        <dd>{advice.run_count}</dd>
      </div>
      <div>
        <dt>Longest day</dt>
        <dd>{Math.round(advice.duration_min)} min of driving</dd>
      </div>
      <div>
        <dt>Charge per run</dt>
        <dd>
          {advice.charge_per_run_percent.toFixed(1)} points, {advice.charge_per_run_source}
        </dd>
      </div>
      <div>
        <dt>Runs in the window's charge</dt>
        <dd>
          {left.likely}, surely {left.sure}
        </dd>
      </div>
      <div>
        <dt>Top-ups</dt>
        <dd>
          {advice.top_ups.length === 0
            ? "none"
            : advice.top_ups.map((each) => `after run ${each.after_run}`).join(", ")}
        </dd>
      </div>
    </dl>
  );
}

function CurveChart({ size, ask }: { size: NonNullable<Advice["size"]>; ask: Asked }) {
  const { family, mode } = usePreferences();
  const p = palette(mode);
  const stop = isStop(ask.measure ?? "");
  const option = useMemo(() => {
    const value = (si: number) => (stop ? shown(si, "distance", family) : si);
    const matters = value(ask.smallest_difference ?? 0);
    return {
      grid: { left: 58, right: 16, top: 14, bottom: 46 },
      xAxis: { ...axis(p, "runs per group"), min: 2, max: 16, interval: 2 },
      yAxis: { ...axis(p, stop ? "smallest found, length" : "smallest found, s"), nameGap: 42 },
      series: [
        {
          type: "line",
          data: size.curve.map((each) => [each.runs, value(each.smallest)]),
          symbolSize: 5,
          lineStyle: { color: p.ink },
          itemStyle: { color: p.ink },
          markLine: {
            silent: true,
            symbol: "none",
            lineStyle: { color: p.accent, type: "dashed" },
            label: { formatter: "matters", color: p.accent, position: "insideEndTop" },
            data: [{ yAxis: matters }],
          },
        },
      ],
    };
  }, [size, ask.smallest_difference, stop, family, p]);
  return <Chart option={option} height={210} label="Smallest difference found against runs per group" />;
}
