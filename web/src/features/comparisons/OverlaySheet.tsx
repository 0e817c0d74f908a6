import { Select } from "antd";
import { useMemo, useState } from "react";

import { axis, Chart, palette, tooltip } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, unitOf, withUnit, type Family, type Kind } from "../../shared/units";
import type { Palette } from "../../theme";
import { CLOCK_NAMES } from "../runs/measures";
import { armColor, armMark, DASHES } from "./arms";
import type { Details, Drawn, Result } from "./queries";
import { SaveChart } from "./SaveChart";

interface View {
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

const VIEWS: Record<string, View> = {
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
    curves: (d) => [null, ...d.gaps.map((gap) => gapCurve(gap.way_m, gap.ahead_s))],
  },
  elevation: { title: "elevation", x: "distance", y: "distance", curves: (d) => d.elevation },
};

/** Mean curves of the arms, one picture at a time, with the interval of each mean. */
export function OverlaySheet({ details, result }: { details: Details; result: Result }) {
  const [name, setName] = useState("speed_time");
  const { family, mode } = usePreferences();
  const offered = Object.entries(VIEWS).filter(([, each]) => each.curves(details).some((c) => c?.x.length));
  const view = VIEWS[name];
  const option = useMemo(
    () => (view ? optionOf(view, details, result, family, palette(mode)) : {}),
    [view, details, result, family, mode],
  );
  if (!view || offered.length === 0) return null;
  return (
    <section className="sheet">
      <div className="sheet-head">
        <h2>Curves</h2>
        <Select
          aria-label="Which curves"
          value={name}
          onChange={setName}
          options={offered.map(([value, each]) => ({ value, label: each.title }))}
          style={{ minWidth: 230 }}
        />
      </div>
      <Chart option={option} height={260} label={`Mean ${view.title} of every arm`} />
      <p className="label">
        {result.arms.map((arm, place) => (
          <span key={arm.name} className="key">
            <span className={armMark(place)} />
            {arm.name}
          </span>
        ))}
        {name.startsWith("gap")
          ? "ahead of the first arm, both leaving together"
          : "means, shaded: 95 % of the mean"}
        , clock: {CLOCK_NAMES[result.clock]}
      </p>
      <Lead details={details} result={result} />
      <SaveChart option={option} name={name} />
    </section>
  );
}

/** One sentence that says what the gap amounts to. */
function Lead({ details, result }: { details: Details; result: Result }) {
  const { family } = usePreferences();
  const marks = family === "us" ? [100, 60, 30] : [100, 50];
  const unit = unitOf("speed", family).factor;
  const lead = marks
    .map((mark) => details.gaps[0]?.leads.find((each) => Math.abs(each.speed_mps - mark * unit) < 0.01))
    .find((each) => each);
  if (!lead) return null;
  const apart = Math.abs(lead.ahead_m);
  const lengths = fixed(apart / details.car_length_m, 1);
  return (
    <p>
      Leaving together, {result.arms[1]?.name} is {withUnit(apart, "distance", family)}{" "}
      {lead.ahead_m >= 0 ? "ahead" : "behind"} at {withUnit(lead.speed_mps, "speed", family, 0)}
      {apart >= details.car_length_m / 2 &&
        `: ${lengths} car lengths of ${withUnit(details.car_length_m, "distance", family)}`}
      .
    </p>
  );
}

function optionOf(view: View, details: Details, result: Result, family: Family, p: Palette) {
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
    series: drawn.flatMap((curve, place) => {
      if (!curve) return [];
      const at = (values: readonly number[]) =>
        curve.x.map((each, index) => [each / x.factor, (values[index] ?? 0) / y.factor]);
      const style = { color: armColor(place, p), width: 2, type: DASHES[place] };
      const mean = {
        name: result.arms[place]?.name,
        type: "line",
        symbol: "none",
        lineStyle: style,
        itemStyle: { color: armColor(place, p) },
        data: at(curve.mean),
      };
      return curve.low95 && curve.high95
        ? [mean, ...band(at(curve.low95), at(curve.high95), place, p)]
        : [mean];
    }),
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
    { ...base, name: `high ${place}`, data: height, areaStyle: { color: armColor(place, p), opacity: 0.18 } },
  ];
}
