import { PALETTES, type Palette } from "../theme";

export { Chart } from "./LazyChart";

export function palette(mode: "light" | "dark"): Palette {
  return PALETTES[mode];
}

export function axis(p: Palette, name: string) {
  return {
    type: "value" as const,
    name,
    nameLocation: "middle" as const,
    nameGap: 30,
    nameTextStyle: { color: p.quiet, fontSize: 13 },
    axisLabel: { color: p.quiet, fontSize: 12, formatter: written },
    axisLine: { show: true, lineStyle: { color: p.ink } },
    splitLine: { lineStyle: { color: p.rule, type: "dotted" as const } },
  };
}

/** A number beside an axis, with a real minus sign; names stay as they are. */
function written(value: number | string): string {
  return typeof value === "number" ? value.toLocaleString("en-US").replace("-", "−") : value;
}

export function tooltip(p: Palette) {
  return { backgroundColor: p.paper, borderColor: p.ink, textStyle: { color: p.ink, fontSize: 13 } };
}

/** Two fingers, or the wheel with ctrl held, zoom along x; a plain wheel goes on scrolling the page. */
export const ZOOM = [
  { type: "inside", xAxisIndex: 0, filterMode: "none", zoomOnMouseWheel: "ctrl", moveOnMouseWheel: false },
];

/** The series that marks the instant which all charts of a sheet point at. */
export function pointerSeries(p: Palette) {
  return {
    id: "pointer",
    type: "scatter",
    symbolSize: 11,
    silent: true,
    z: 10,
    itemStyle: { color: p.accent, borderColor: p.paper, borderWidth: 2 },
    tooltip: { show: false },
    data: [],
  };
}

/** The value of a column at an instant, between its samples in a straight line; null outside. */
export function valueAt(since_s: readonly number[], values: readonly (number | null)[], at_s: number) {
  if (at_s < (since_s[0] ?? 0) || at_s > (since_s.at(-1) ?? 0)) return null;
  let high = since_s.findIndex((each) => each >= at_s);
  if (high <= 0) high = 1;
  const [t0, t1, v0, v1] = [since_s[high - 1], since_s[high], values[high - 1], values[high]];
  if (t0 === undefined || t1 === undefined || v0 == null || v1 == null) return null;
  return v0 + ((v1 - v0) * (at_s - t0)) / (t1 - t0 || 1);
}
