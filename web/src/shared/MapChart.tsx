import { useEffect, useMemo, useRef, useState, type ComponentProps } from "react";

import { Chart, palette } from "./chartStyle";
import { usePreferences } from "./preferences";
import { mapAxis, toScale } from "./toScale";

const MARGIN = { left: 58, right: 16, top: 12, bottom: 44 };

interface Props extends Pick<ComponentProps<typeof Chart>, "label" | "link" | "pick"> {
  /** Every place that is drawn, in the unit of the axes. */
  east: readonly number[];
  north: readonly number[];
  unit: string;
  series: object[];
  height: number;
}

/** Places north up and in one scale, however wide the page is; no map is under it, nothing is fetched. */
export function MapChart({ east, north, unit, series, height, ...chart }: Props) {
  const { mode } = usePreferences();
  const holder = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!holder.current) return;
    const watch = new ResizeObserver(([entry]) => setWidth(entry?.contentRect.width ?? 0));
    watch.observe(holder.current);
    return () => watch.disconnect();
  }, []);
  const option = useMemo(() => {
    const p = palette(mode);
    const aspect = (width - MARGIN.left - MARGIN.right) / (height - MARGIN.top - MARGIN.bottom);
    const ends = toScale(east, north, aspect);
    return {
      grid: MARGIN,
      xAxis: { ...mapAxis(p, `east, ${unit}`), ...ends.east },
      yAxis: { ...mapAxis(p, `north, ${unit}`), nameGap: 42, ...ends.north },
      series,
    };
  }, [east, north, unit, series, height, width, mode]);
  return (
    <div ref={holder} style={{ minHeight: height }}>
      {width > 0 && <Chart option={option} height={height} {...chart} />}
    </div>
  );
}
