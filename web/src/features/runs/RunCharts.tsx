import { useMemo } from "react";

import type { Schemas } from "../../api/client";
import type { Link } from "../../shared/Chart";
import { axis, Chart, palette, pointerSeries, tooltip, valueAt, ZOOM } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf, type Family } from "../../shared/units";
import type { Palette } from "../../theme";
import type { Run } from "./queries";

const GRAVITY = 9.80665;
type CurveData = Schemas["Curve"];

/** Speed and acceleration, and under them the elevation, against one axis of time. */
export function RunCharts({ run, data }: { run: Run; data: CurveData }) {
  const { family, mode } = usePreferences();
  const p = palette(mode);
  const speed = useMemo(() => speedOption(run, data, family, p), [run, data, family, p]);
  const height = useMemo(() => heightOption(data, family, p), [data, family, p]);
  const speedLink = useMemo(
    () => link(data.curve.since_s, inUnit(data.curve.speed_mps, "speed", family)),
    [data, family],
  );
  const heightLink = useMemo(() => link(data.fixes.since_s, heights(data, family)), [data, family]);
  const top = Math.max(...data.curve.speed_mps);
  const hasHeight = data.fixes.altitude_m.some((each) => each !== null);
  return (
    <section className="sheet">
      <h2>Speed, acceleration, elevation</h2>
      <Chart
        option={speed}
        link={speedLink}
        height={320}
        label={`Speed against time to ${fixed(shown(top, "speed", family), 0)} ${unitOf("speed", family).name}, with acceleration in g`}
      />
      {hasHeight && (
        <Chart option={height} link={heightLink} height={110} label="Elevation against time, from the log" />
      )}
      <p className="label">
        Dots: the receiver&apos;s fixes. Line: the fit that every number comes from. Dashed: acceleration, g.
        Time counts from{" "}
        {run.kind === "stop" ? "brake onset" : run.kind === "rolling" ? "full power" : "first movement"}. Zoom
        with two fingers, or ctrl and the wheel.
      </p>
    </section>
  );
}

function inUnit(values: readonly number[], kind: "speed" | "distance", family: Family): number[] {
  return values.map((value) => value / unitOf(kind, family).factor);
}

/** Elevation above the first fix in motion, in the family's unit. */
function heights(data: CurveData, family: Family): (number | null)[] {
  const { since_s, altitude_m } = data.fixes;
  const start =
    altitude_m[
      Math.max(
        since_s.findIndex((at) => at >= 0),
        0,
      )
    ] ?? 0;
  const factor = unitOf("distance", family).factor;
  return altitude_m.map((each) => (each === null ? null : (each - start) / factor));
}

function link(since_s: readonly number[], values: readonly (number | null)[]): Link {
  return {
    sinceAt: (x) => x,
    pointAt(at_s) {
      const value = valueAt(since_s, values, at_s);
      return value === null ? null : [at_s, value];
    },
  };
}

function timeAxis(data: CurveData, p: Palette, named: boolean) {
  const end = data.curve.since_s.at(-1) ?? 1;
  return {
    ...axis(p, named ? "s" : ""),
    min: -1,
    max: Math.ceil(end + 0.5),
    axisLabel: { ...axis(p, "").axisLabel, show: named },
  };
}

function speedOption(run: Run, data: CurveData, family: Family, p: Palette) {
  const unit = unitOf("speed", family);
  const { fixes, curve } = data;
  const speed = (mps: number) => Number((mps / unit.factor).toFixed(2));
  return {
    grid: { left: 56, right: 56, top: 26, bottom: 46 },
    tooltip: { trigger: "axis", ...tooltip(p), valueFormatter: (value: number) => fixed(value, 2) },
    dataZoom: ZOOM,
    xAxis: timeAxis(data, p, true),
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
        markLine: flagMarks(run, p),
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
      pointerSeries(p),
    ],
  };
}

/** A line with the flag's name where each flag arose. */
function flagMarks(run: Run, p: Palette) {
  const placed = run.flags.filter((flag) => flag.since_s !== null);
  return {
    symbol: "none",
    silent: true,
    lineStyle: { color: p.caution, type: "solid", width: 1.5 },
    label: { color: p.ink, fontSize: 12, formatter: "{b}" },
    data: placed.map((flag) => ({ name: flag.code.replaceAll("_", " "), xAxis: flag.since_s })),
  };
}

function heightOption(data: CurveData, family: Family, p: Palette) {
  const unit = unitOf("distance", family);
  const values = heights(data, family);
  return {
    grid: { left: 56, right: 56, top: 8, bottom: 22 },
    tooltip: {
      trigger: "axis",
      ...tooltip(p),
      valueFormatter: (value: number) => `${fixed(value, 1)} ${unit.name}`,
    },
    xAxis: timeAxis(data, p, false),
    yAxis: { ...axis(p, `elevation, ${unit.name}`), nameGap: 40, scale: true, splitNumber: 2 },
    series: [
      {
        name: "Elevation",
        type: "line",
        symbol: "none",
        lineStyle: { color: p.quiet, width: 1.5 },
        itemStyle: { color: p.quiet },
        data: data.fixes.since_s.map((at, index) => [at, values[index] ?? null]),
      },
      pointerSeries(p),
    ],
  };
}
