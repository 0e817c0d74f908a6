import { useMemo } from "react";

import { ARM_DASH } from "../../theme";
import { axis, Chart, palette, tooltip } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { fixed, unitOf } from "../../shared/units";
import { CLOCK_NAMES } from "../runs/measures";
import type { Result } from "./queries";

/** Every counting run's speed against time, on the comparison's clock. */
export function OverlayChart({ result }: { result: Result }) {
  const { family, mode } = usePreferences();
  const unit = unitOf("speed", family);
  const option = useMemo(() => {
    const p = palette(mode);
    return {
      grid: { left: 56, right: 12, top: 16, bottom: 46 },
      tooltip: { trigger: "item", ...tooltip(p) },
      xAxis: { ...axis(p, "s"), min: 0 },
      yAxis: { ...axis(p, unit.name), nameGap: 40, min: 0 },
      series: result.overlays.map((overlay) => ({
        name: overlay.arm,
        type: "line",
        symbol: "none",
        lineStyle: { color: p[overlay.arm], width: 1.5, type: ARM_DASH[overlay.arm], opacity: 0.85 },
        data: overlay.since_s.map((at, index) => [
          at,
          Number(fixed((overlay.speed_mps[index] ?? 0) / unit.factor, 2)),
        ]),
      })),
    };
  }, [result.overlays, unit, mode]);
  return (
    <section className="sheet">
      <h2>Speed against time</h2>
      <Chart
        option={option}
        height={260}
        label="Speed against time of every counting run, before dashed, after solid"
      />
      <p className="label">
        <span className="arm-mark" /> before <span className="arm-mark after" style={{ marginLeft: 12 }} />{" "}
        after, clock: {CLOCK_NAMES[result.clock]}
      </p>
    </section>
  );
}
