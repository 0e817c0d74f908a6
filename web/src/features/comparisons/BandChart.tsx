import { useMemo } from "react";

import { axis, Chart, palette, tooltip } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, unitOf, withUnit } from "../../shared/units";
import { SaveChart } from "../../shared/SaveChart";
import type { Pair } from "./queries";

const LABEL = "Difference in time within each band, after minus before";

/** Where the time went: the difference within each band with its interval; the bands add up to the whole. */
export function BandChart({ pair, adjusted }: { pair: Pair; adjusted: boolean }) {
  const { family, mode } = usePreferences();
  const bySpeed = pair.bands[0]?.from_mps !== undefined;
  const kind = bySpeed ? "speed" : "distance";
  const unit = unitOf(kind, family);
  const option = useMemo(() => {
    const p = palette(mode);
    const edge = (si: number | undefined) => ((si ?? 0) / unit.factor).toFixed(0);
    const names = pair.bands.map(
      (band) => `${edge(band.from_mps ?? band.from_m)}–${edge(band.to_mps ?? band.to_m)}`,
    );
    return {
      grid: { left: 66, right: 12, top: 16, bottom: 46 },
      tooltip: { trigger: "axis", ...tooltip(p), valueFormatter: (value: unknown) => inSeconds(value) },
      xAxis: { ...axis(p, unit.name), type: "category", data: names, splitLine: { show: false } },
      yAxis: { ...axis(p, "s"), nameGap: 50 },
      series: [
        {
          name: "after minus before",
          type: "bar",
          barWidth: "62%",
          itemStyle: { color: p.accent },
          data: pair.bands.map((band) => Number(band.difference_s.toFixed(4))),
        },
        whiskers(pair, p.ink),
      ],
    };
  }, [pair, unit, mode]);
  return (
    <section className="sheet">
      <h2>Where the time went</h2>
      <Chart option={option} height={260} label={LABEL} />
      <p className="label">
        Below zero the after group gains; lines are 95 % intervals. The bars add up to the{" "}
        {adjusted ? "unadjusted difference" : "difference"}.
        {pair.parted_at !== null &&
          ` The groups separate at ${withUnit(pair.parted_at, pair.character && !bySpeed ? "speed" : kind, family, 0)}: from there on the difference is clear.`}
      </p>
      <SaveChart option={() => option} name="where-the-time-went" />
    </section>
  );
}

function inSeconds(value: unknown): string {
  return typeof value === "number" ? `${fixed(value, 3)} s` : "";
}

/** A vertical line from the low to the high end of each band's interval. */
function whiskers(pair: Pair, color: string) {
  return {
    name: "interval",
    type: "custom",
    tooltip: { show: false },
    silent: true,
    encode: { x: 0, y: [1, 2] },
    data: pair.bands.map((band, place) => [place, band.low95 ?? 0, band.high95 ?? 0]),
    renderItem: (
      _: unknown,
      api: { value: (place: number) => number; coord: (at: number[]) => number[] },
    ) => {
      const [x, low] = api.coord([api.value(0), api.value(1)]);
      const [, high] = api.coord([api.value(0), api.value(2)]);
      return {
        type: "line",
        shape: { x1: x, y1: low, x2: x, y2: high },
        style: { stroke: color, lineWidth: 2 },
      };
    },
  };
}
