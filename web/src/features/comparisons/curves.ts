import type { Link } from "../../shared/Chart";
import { axis, pointerSeries, tooltip, valueAt } from "../../shared/chartStyle";
import { fixed, unitOf, type Family, type Kind } from "../../shared/units";
import type { Palette } from "../../theme";
import { groupColor, DASHES } from "./groups";
import type { Details, Drawn, Result } from "./queries";

export interface View {
  title: string;
  x: Kind;
  y: Kind;
  yName?: string;
  curves: (details: Details) => readonly (Drawn | null)[];
}

const gapCurve = (x: readonly number[], mean: readonly number[]): Drawn => ({
  x: [...x],
  mean: [...mean],
  low95: null,
  high95: null,
});

export const VIEWS: Record<string, View> = {
  speed_time: { title: "speed against time", x: "time", y: "speed", curves: (d) => d.overlays.speed_time },
  speed_distance: {
    title: "speed against distance",
    x: "distance",
    y: "speed",
    curves: (d) => d.overlays.speed_distance,
  },
  acceleration: {
    title: "acceleration against speed",
    x: "speed",
    y: "acceleration",
    curves: (d) => d.overlays.acceleration_speed,
  },
  power: {
    title: "power at the wheels against speed",
    x: "speed",
    y: "plain",
    yName: "kW",
    curves: (d) => d.power_speed,
  },
  gap_time: {
    title: "gap against time",
    x: "time",
    y: "distance",
    curves: (d) => [null, ...d.gaps.map((gap) => gapCurve(gap.since_s, gap.ahead_m))],
  },
  gap_distance: {
    title: "gap against distance",
    x: "distance",
    y: "time",
    curves: (d) => [null, ...d.gaps.map((gap) => gapCurve(gap.distance_m, gap.ahead_s))],
  },
  elevation: { title: "elevation", x: "distance", y: "distance", curves: (d) => d.elevation },
};

/** Curves that lie on each other say little: the gap that stands beneath them. */
export const BENEATH: Partial<Record<string, string>> = {
  speed_time: "gap_time",
  speed_distance: "gap_distance",
};

export function optionOf(view: View, details: Details, result: Result, family: Family, p: Palette) {
  const [x, y] = [unitOf(view.x, family), unitOf(view.y, family)];
  const drawn = view.curves(details);
  return {
    grid: { left: 60, right: 12, top: 16, bottom: 46 },
    tooltip: {
      trigger: "axis",
      ...tooltip(p),
      valueFormatter: (value: unknown) =>
        typeof value === "number" ? `${fixed(value, 2)} ${view.yName ?? y.name}` : "",
    },
    xAxis: { ...axis(p, x.name), min: 0, axisPointer: { show: true, lineStyle: { color: p.accent } } },
    yAxis: { ...axis(p, view.yName ?? y.name), nameGap: 42, scale: view.y === "distance" },
    series: [
      pointerSeries(p),
      ...drawn.flatMap((curve, place) => {
        if (!curve) return [];
        const at = (values: readonly number[]) =>
          curve.x.map((each, index) => [each / x.factor, (values[index] ?? 0) / y.factor]);
        const style = { color: groupColor(place, p), width: 2, type: DASHES[place] };
        const mean = {
          name: result.groups[place]?.name,
          type: "line",
          symbol: "none",
          lineStyle: style,
          itemStyle: { color: groupColor(place, p) },
          data: at(curve.mean),
        };
        return curve.low95 && curve.high95
          ? [mean, ...band(at(curve.low95), at(curve.high95), place, p)]
          : [mean];
      }),
    ],
  };
}

/** The interval as a shaded band: an unseen line at its low end, and the height above it filled. */
function band(low: number[][], high: number[][], place: number, p: Palette) {
  const base = {
    type: "line",
    symbol: "none",
    stack: `band ${place}`,
    lineStyle: { opacity: 0 },
    tooltip: { show: false },
    silent: true,
  };
  const height = high.map(([x, top], index) => [x ?? 0, (top ?? 0) - (low[index]?.[1] ?? 0)]);
  return [
    { ...base, name: `low ${place}`, data: low },
    {
      ...base,
      name: `high ${place}`,
      data: height,
      areaStyle: { color: groupColor(place, p), opacity: 0.18 },
    },
  ];
}

/** How the points of a picture and the instants of the first group's mean run belong together, by its speed. */
export function linkOf(view: View, details: Details, family: Family): Link | undefined {
  const time = details.overlays.speed_time[0];
  const way = details.overlays.speed_distance[0];
  const drawn = view.curves(details).find((curve) => curve?.x.length);
  if (!time?.x.length || !way?.x.length || !drawn) return undefined;
  const unit = unitOf(view.x, family).factor;
  const yUnit = unitOf(view.y, family).factor;
  const speedAt = (si: number) => (view.x === "speed" ? si : valueAt(way.x, way.mean, si));
  const xAt = (since_s: number) => {
    const speed = valueAt(time.x, time.mean, since_s);
    return view.x === "speed" || speed === null ? speed : valueAt(way.mean, way.x, speed);
  };
  return {
    sinceAt: (x) => {
      if (view.x === "time") return x;
      const speed = speedAt(x * unit);
      return speed === null ? null : valueAt(time.mean, time.x, speed);
    },
    pointAt: (since_s) => {
      const x = view.x === "time" ? since_s : xAt(since_s);
      const y = x === null ? null : valueAt(drawn.x, drawn.mean, x);
      return x === null || y === null ? null : [x / unit, y / yUnit];
    },
  };
}
