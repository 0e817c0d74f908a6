import { Term } from "../../shared/Term";
import { useMemo } from "react";

import { axis, Chart, palette } from "../../shared/chartStyle";
import { Facts } from "../../shared/Facts";
import { usePreferences } from "../../shared/preferences";
import { shown } from "../../shared/units";
import { StripParts } from "../learning/StripParts";
import { useIsStop } from "./useIsStop";
import { OrderLine } from "./OrderLine";
import type { Advice, PlanAsk } from "./queries";

type Asked = Pick<PlanAsk, "measure" | "difference_that_matters">;

/** What a plan says about itself: how many runs, what they could show, what is confounded, what it costs. */
export function AdviceSheet({ advice, ask }: { advice: Advice; ask: Asked }) {
  return (
    <>
      <section className="sheet" aria-label="How many runs">
        {advice.size ? <SizeAnswer size={advice.size} /> : <Count advice={advice} />}
        {advice.confounded.map((each) => (
          <p className="flag caution" key={each.what}>
            {each.sentence}
          </p>
        ))}
        {advice.driving_down && <p>{advice.driving_down}</p>}
        <OrderLine days={advice.days} />
        <Cost advice={advice} />
      </section>
      <section className="sheet" aria-label="Strip length">
        <h2>
          The strip
          <Term word="runout" />
        </h2>
        <StripParts check={advice.strip} />
      </section>
      {advice.size && (
        <section className="sheet">
          <h2>
            What n runs per group could detect
            <Term word="detectable difference" />
          </h2>
          <CurveChart size={advice.size} ask={ask} />
          <p className="label">
            Scatter
            <Term word="scatter" />: {advice.size.scatter_source}.
          </p>
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

function SizeAnswer({ size }: { size: NonNullable<Advice["size"]> }) {
  const [count, of] =
    size.runs_needed !== null
      ? [size.runs_needed, "runs per group"]
      : size.days_needed !== null
        ? [size.days_needed, "days per group"]
        : ["no", "number of runs"];
  return (
    <>
      <p className="answer flush" data-testid="runs-needed">
        {count} <small>{of}</small>
      </p>
      <p>
        {size.needed_sentence} {size.planned_sentence}
      </p>
    </>
  );
}

function Cost({ advice }: { advice: Advice }) {
  return (
    <Facts
      rows={[
        ["Total runs", advice.run_count],
        ["Longest day", `${Math.round(advice.duration_min)} min of driving`],
        [
          "Charge per run",
          `${advice.charge_per_run_percent.toFixed(1)} points, ${advice.charge_per_run_source}`,
        ],
        [
          "Runs in the window's charge",
          `about ${advice.runs_left.likely}, at least ${advice.runs_left.sure}`,
        ],
        [
          "Top-ups",
          advice.top_ups.length === 0
            ? "none"
            : advice.top_ups.map((each) => `after run ${each.after_run}`).join(", "),
        ],
      ]}
    />
  );
}

function CurveChart({ size, ask }: { size: NonNullable<Advice["size"]>; ask: Asked }) {
  const { family, mode } = usePreferences();
  const p = palette(mode);
  const stop = useIsStop(ask.measure);
  const option = useMemo(() => {
    const value = (si: number) => (stop ? shown(si, "distance", family) : si);
    const matters = value(ask.difference_that_matters ?? 0);
    return {
      grid: { left: 58, right: 16, top: 14, bottom: 46 },
      xAxis: { ...axis(p, "runs per group"), min: 2, max: 16, interval: 2 },
      yAxis: { ...axis(p, stop ? "detectable, length" : "detectable, s"), nameGap: 42 },
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
  }, [size, ask.difference_that_matters, stop, family, p]);
  return <Chart option={option} height={210} label="Detectable difference against runs per group" />;
}
