import { useMemo } from "react";

import { axis, Chart, palette, tooltip } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading } from "../../shared/States";
import { fixed, shown, unitOf, type Family } from "../../shared/units";
import { useCurve, type Run } from "./queries";
import type { Schemas } from "../../api/client";

const GRAVITY = 9.80665;

/** Speed and acceleration against time: the fixes as dots, the fit as lines. */
export function RunCharts({ run }: { run: Run }) {
  const curve = useCurve(run.id);
  const { family, mode } = usePreferences();
  const option = useMemo(
    () => (curve.data ? speedOption(curve.data, family, mode) : null),
    [curve.data, family, mode],
  );
  if (curve.error) return <Failed error={curve.error} retry={() => void curve.refetch()} />;
  if (!option || !curve.data) return <Loading what="the curve" />;
  const top = Math.max(...curve.data.curve.speed_mps);
  return (
    <section className="sheet">
      <h2>Speed and acceleration</h2>
      <Chart
        option={option}
        height={330}
        label={`Speed against time to ${fixed(shown(top, "speed", family), 0)} ${unitOf("speed", family).name}, with acceleration in g`}
      />
      <p className="label">
        Dots: the receiver&apos;s fixes. Line: the fit that every number comes from. Dashed: acceleration, g.
        Time counts from {run.kind === "stop" ? "brake onset" : "first movement"}.
      </p>
    </section>
  );
}

function speedOption(data: Schemas["Curve"], family: Family, mode: "light" | "dark") {
  const p = palette(mode);
  const unit = unitOf("speed", family);
  const { fixes, curve } = data;
  const speed = (mps: number) => Number((mps / unit.factor).toFixed(2));
  const end = curve.since_s.at(-1) ?? 1;
  return {
    grid: { left: 56, right: 56, top: 16, bottom: 46 },
    tooltip: { trigger: "axis", ...tooltip(p), valueFormatter: (value: number) => fixed(value, 2) },
    xAxis: { ...axis(p, "s"), min: -1, max: Math.ceil(end + 0.5) },
    yAxis: [
      { ...axis(p, unit.name), nameGap: 40, min: 0 },
      { ...axis(p, "g"), nameGap: 36, splitLine: { show: false }, position: "right" },
    ],
    series: [
      {
        name: "Fixes",
        type: "scatter",
        symbolSize: 3,
        itemStyle: { color: p.quiet, opacity: 0.7 },
        tooltip: { show: false },
        data: fixes.since_s.map((at, index) => [at, speed(fixes.speed_mps[index] ?? 0)]),
      },
      {
        name: `Speed, ${unit.name}`,
        type: "line",
        symbol: "none",
        lineStyle: { color: p.ink, width: 2 },
        itemStyle: { color: p.ink },
        data: curve.since_s.map((at, index) => [at, speed(curve.speed_mps[index] ?? 0)]),
      },
      {
        name: "Acceleration, g",
        type: "line",
        symbol: "none",
        yAxisIndex: 1,
        lineStyle: { color: p.accent, width: 1.6, type: "dashed" },
        itemStyle: { color: p.accent },
        data: curve.since_s.map((at, index) => [at, (curve.acceleration_mps2[index] ?? 0) / GRAVITY]),
      },
    ],
  };
}
