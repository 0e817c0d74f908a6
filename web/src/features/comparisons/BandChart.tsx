import { useMemo } from "react";

import { axis, Chart, palette, tooltip } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, unitOf } from "../../shared/units";
import type { Result } from "./queries";

/** Where the time went: the difference within each band; the bands add up to the whole. */
export function BandChart({ result }: { result: Result }) {
  const { family, mode } = usePreferences();
  const bySpeed = result.bands[0]?.from_mps !== undefined;
  const unit = unitOf(bySpeed ? "speed" : "distance", family);
  const option = useMemo(() => {
    const p = palette(mode);
    const edge = (si: number | undefined) => ((si ?? 0) / unit.factor).toFixed(0);
    const names = result.bands.map(
      (band) => `${edge(band.from_mps ?? band.from_m)}–${edge(band.to_mps ?? band.to_m)}`,
    );
    return {
      grid: { left: 66, right: 12, top: 16, bottom: 46 },
      tooltip: { trigger: "axis", ...tooltip(p), valueFormatter: (value: number) => `${fixed(value, 3)} s` },
      xAxis: { ...axis(p, unit.name), type: "category", data: names, splitLine: { show: false } },
      yAxis: { ...axis(p, "s"), nameGap: 50 },
      series: [
        {
          name: "after minus before",
          type: "bar",
          barWidth: "62%",
          itemStyle: { color: p.accent },
          data: result.bands.map((band) => Number(band.difference_s.toFixed(4))),
        },
      ],
    };
  }, [result.bands, unit, mode]);
  return (
    <section className="sheet">
      <h2>Where the time went</h2>
      <Chart option={option} height={260} label="Difference in time within each band, after minus before" />
      <p className="label">Below zero the after arm gains. The bars add up to the difference.</p>
    </section>
  );
}
