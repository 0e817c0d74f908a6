import { BarChart, CustomChart, LineChart, ScatterChart } from "echarts/charts";
import {
  AriaComponent,
  GridComponent,
  LegendComponent,
  MarkLineComponent,
  TooltipComponent,
} from "echarts/components";
import { init, use as register, type EChartsCoreOption } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { useEffect, useRef } from "react";

register([
  BarChart,
  CustomChart,
  LineChart,
  ScatterChart,
  AriaComponent,
  GridComponent,
  LegendComponent,
  MarkLineComponent,
  TooltipComponent,
  SVGRenderer,
]);

interface Props {
  option: EChartsCoreOption;
  height: number;
  label: string;
}

/** One chart, drawn as SVG so that it prints; `label` says in words what it shows. */
export default function Chart({ option, height, label }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!holder.current) return;
    const chart = init(holder.current, undefined, { renderer: "svg" });
    chart.setOption({ animation: false, ...option });
    const watch = new ResizeObserver(() => chart.resize());
    watch.observe(holder.current);
    return () => {
      watch.disconnect();
      chart.dispose();
    };
  }, [option]);
  return <div ref={holder} role="img" aria-label={label} style={{ height, width: "100%" }} />;
}
