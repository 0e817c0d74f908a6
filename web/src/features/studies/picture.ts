import { axis, tooltip } from "../../shared/chartStyle";
import { fixed, shown, unitOf, type Family, type Kind } from "../../shared/units";
import type { Palette } from "../../theme";
import { DASHES, groupColor } from "../comparisons/groups";
import type { Axis, StudyChart } from "./queries";

const DIGITS = 3;
const KNOWN: readonly string[] = [
  ...["speed", "distance", "temperature", "time", "percent", "power", "ratio"],
  ...["mass", "odometer", "pressure"],
];

/** The kind of quantity that an axis counts; what is none has a unit of its own. */
export function kindOf({ kind }: Axis): Kind {
  return KNOWN.includes(kind) ? (kind as Kind) : "plain";
}

export function unitName(of: Axis, family: Family): string {
  const name = unitOf(kindOf(of), family).name;
  return name || (kindOf(of) === "plain" ? of.unit : "");
}

/** A column's heading, or what stands beside an axis: its label with the unit. */
export function titleOf(of: Axis, family: Family): string {
  const unit = unitName(of, family);
  return unit ? `${of.label}, ${unit}` : of.label;
}

function color(place: number, p: Palette) {
  return groupColor(place, p);
}

/** A study's chart as ECharts draws it; `small` is without words. */
export function optionOf(chart: StudyChart, family: Family, p: Palette, small = false) {
  const inX = (value: number) =>
    chart.x.kind === "date" ? value * 1000 : shown(value, kindOf(chart.x), family);
  const scale = unitOf(kindOf(chart.y), family).factor;
  const inY = (value: number) => shown(value, kindOf(chart.y), family);
  const named = chart.names.length > 0;
  const several = chart.series.length > 1;
  const direct = chart.series.some(({ band }) => band);
  const dotted = chart.series.filter(({ band }) => !band).map(({ name }) => name);
  const listed = !named && dotted.length > 1;
  const down = labelsDown(chart);
  const plain = axis(p, titleOf(chart.x, family));
  const quiet = small ? { name: "", axisLabel: { show: false }, splitLine: { show: false } } : {};
  return {
    grid: small
      ? { left: 8, right: 8, top: 8, bottom: 8 }
      : { left: 66, right: several && direct ? 96 : 20, top: listed ? 44 : 18, bottom: named ? 40 : 52 },
    tooltip: small ? undefined : { trigger: "item", ...tooltip(p) },
    legend: listed && !small ? { top: 4, data: dotted, textStyle: { color: p.ink } } : undefined,
    xAxis: {
      ...plain,
      ...(named ? { type: "category", data: chart.names, name: "" } : {}),
      ...(chart.x.kind === "date" ? { type: "time", name: "" } : {}),
      inverse: chart.falling,
      scale: true,
      ...whole(chart),
      axisLabel: {
        ...plain.axisLabel,
        ...(chart.x.kind === "date" || named
          ? { formatter: undefined }
          : isCount(chart)
            ? { formatter: counted }
            : {}),
      },
      ...quiet,
    },
    yAxis: { ...axis(p, titleOf(chart.y, family)), nameGap: 48, scale: true, ...quiet },
    series: chart.series.flatMap((series, place) => [
      ...bandOf(leftToRight(series, chart), place, {
        inX,
        inY,
        scale,
        p,
        label: several && direct && !small,
        labelDown: down[place] ?? 0,
        falling: chart.falling,
      }),
      ...pointsOf(series, place, { inX, inY, scale, named, chart, family, p, small }),
      ...marksOf(series, inX, p, small),
    ]),
  };
}

function isCount({ x }: StudyChart) {
  return ["stop", "pass", "run", "lap"].includes(x.label);
}

/** Counted things have whole numbers. */
function whole(chart: StudyChart) {
  return isCount(chart) ? { minInterval: 1, min: 0.5, axisTick: { show: false } } : {};
}

/** No label between whole numbers. */
function counted(value: number) {
  return Number.isInteger(value) ? String(value) : "";
}

type Series = StudyChart["series"][number];
type Change = (value: number) => number;

interface BandDrawing {
  inX: Change;
  inY: Change;
  scale: number;
  p: Palette;
  label: boolean;
  /** By how many pixels the label stands below the end of its line. */
  labelDown: number;
  falling: boolean;
}

/** A band whose last place is the rightmost, where its label stands. */
function leftToRight(series: Series, { falling }: StudyChart): Series {
  const { band } = series;
  if (!band || falling !== (band.x[0] ?? 0) < (band.x.at(-1) ?? 0)) return series;
  return {
    ...series,
    band: { x: [...band.x].reverse(), y: [...band.y].reverse(), u95: [...band.u95].reverse() },
  };
}

const LABEL_SHARE = 0.07; // of a chart's height: what a label takes
const LABEL_PX = 16;
const LABEL_WIDTH_SHARE = 0.15;

/** How far down each label goes so that those of lines that end together do not lie on one another. */
export function labelsDown(chart: StudyChart): number[] {
  const bands = chart.series.map((series) => leftToRight(series, chart).band);
  const [high, wide] = [
    LABEL_SHARE *
      span(chart.series.flatMap(({ band, points }) => [...(band?.y ?? []), ...points.map(({ y }) => y)])),
    LABEL_WIDTH_SHARE * span(bands.flatMap((band) => band?.x ?? [])),
  ];
  const ends = bands.flatMap((band, place) => {
    const [x, y] = [band?.x.at(-1), band?.y.at(-1)];
    return x === undefined || y === undefined ? [] : [{ x, y, place }];
  });
  const down = bands.map(() => 0);
  ends
    .sort((one, other) => other.y - one.y)
    .forEach(({ x, y, place }, n, sorted) => {
      const above = sorted
        .slice(0, n)
        .filter((end) => end.y - y < high && Math.abs(end.x - x) < wide)
        .at(-1);
      if (above) down[place] = (down[above.place] ?? 0) + LABEL_PX;
    });
  return down;
}

function span(values: readonly number[]): number {
  return values.length ? Math.max(...values) - Math.min(...values) : 0;
}

function bandOf(
  { name, band }: Series,
  place: number,
  { inX, inY, scale, p, label, labelDown, falling }: BandDrawing,
) {
  if (!band) return [];
  const line = {
    name,
    type: "line",
    symbol: "none",
    lineStyle: { color: color(place, p), width: 2, type: DASHES[place % DASHES.length] },
    itemStyle: { color: color(place, p) },
    endLabel: {
      ...{ show: label, formatter: "{a}", color: color(place, p), fontSize: 13, fontWeight: 600 },
      // Beside an end that points left the label would lie on the line.
      ...(falling ? { align: "left", offset: [18, labelDown] } : { offset: [0, labelDown] }),
    },
    data: band.x.map((x, n) => [inX(x), inY(band.y[n] ?? 0)]),
  };
  if (band.u95.length === 0) return [line];
  const edge = band.x.map((x, n) => {
    const half = (band.u95[n] ?? 0) / scale;
    return [inX(x), inY(band.y[n] ?? 0) - half, 2 * half] as const;
  });
  const hidden = {
    type: "line",
    symbol: "none",
    silent: true,
    tooltip: { show: false },
    lineStyle: { opacity: 0 },
    itemStyle: { color: color(place, p) },
  };
  return [
    { ...hidden, name, stack: `band ${place}`, stackStrategy: "all", data: edge.map(([x, low]) => [x, low]) },
    {
      ...hidden,
      name,
      stack: `band ${place}`,
      stackStrategy: "all",
      areaStyle: { color: color(place, p), opacity: 0.15 },
      data: edge.map(([x, , both]) => [x, both]),
    },
    line,
  ];
}

interface Drawing {
  inX: Change;
  inY: Change;
  scale: number;
  named: boolean;
  chart: StudyChart;
  family: Family;
  p: Palette;
  small: boolean;
}

function pointsOf(
  { name, points }: Series,
  place: number,
  { inX, inY, scale, named, chart, family, p, small }: Drawing,
) {
  if (points.length === 0) return [];
  const unit = unitName(chart.y, family);
  const paint = named ? (name === "runs" ? p.quiet : p.ink) : color(place, p);
  const placed = points.map((point) => ({
    value: [named ? point.x : inX(point.x), inY(point.y)],
    half: (point.u95 ?? 0) / scale,
    words: [
      name,
      `${fixed(inY(point.y), DIGITS)}${point.u95 === null ? "" : ` ± ${fixed(point.u95 / scale, DIGITS)}`} ${unit}`,
      point.label,
    ]
      .filter(Boolean)
      .join("<br>"),
  }));
  return [
    ...(small ? [] : [whiskers(name, placed, paint)]),
    {
      name,
      type: "scatter",
      symbol: name === "mean" ? "diamond" : "circle",
      symbolSize: small ? 4 : name === "mean" ? 13 : 8,
      itemStyle: { color: paint, opacity: name === "runs" ? 0.55 : 1 },
      tooltip: { formatter: ({ data }: { data: { words: string } }) => data.words },
      data: placed,
    },
  ];
}

interface Placed {
  value: number[];
  half: number;
}

/** The interval of every point, as an upright line. */
function whiskers(name: string, placed: readonly Placed[], paint: string) {
  return {
    name,
    type: "custom",
    silent: true,
    tooltip: { show: false },
    itemStyle: { color: paint },
    encode: { x: 0, y: [1, 2] },
    renderItem: (_: unknown, at: { value: (n: number) => number; coord: (point: number[]) => number[] }) => {
      const [x, low, high] = [at.value(0), at.value(1), at.value(2)];
      const [bottom, top] = [at.coord([x, low]), at.coord([x, high])];
      const [x1, y1, x2, y2] = [bottom[0], bottom[1], top[0], top[1]];
      return { type: "line", shape: { x1, y1, x2, y2 }, style: { stroke: paint, lineWidth: 1.5 } };
    },
    data: placed.map(({ value: [x = 0, y = 0], half }) => [x, y - half, y + half]),
  };
}

function marksOf({ name, marks }: Series, inX: Change, p: Palette, small: boolean) {
  if (marks.length === 0) return [];
  return [
    {
      name: `${name} marks`,
      type: "line",
      data: [],
      markLine: {
        symbol: "none",
        silent: true,
        lineStyle: { color: p.accent, type: "dotted", width: 1.5 },
        label: { show: !small, color: p.ink, formatter: "{b}" },
        data: marks.map((mark) => ({ name: mark.label, xAxis: inX(mark.x) })),
      },
    },
  ];
}
