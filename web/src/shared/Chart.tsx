import { BarChart, CustomChart, LineChart, ScatterChart } from "echarts/charts";
import {
  AriaComponent,
  DataZoomInsideComponent,
  GridComponent,
  LegendComponent,
  MarkLineComponent,
  TooltipComponent,
} from "echarts/components";
import { init, use as register, type EChartsCoreOption, type EChartsType } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { useEffect, useRef } from "react";

import { usePointer, type Pointer } from "./pointer";

register([
  BarChart,
  CustomChart,
  LineChart,
  ScatterChart,
  AriaComponent,
  DataZoomInsideComponent,
  GridComponent,
  LegendComponent,
  MarkLineComponent,
  TooltipComponent,
  SVGRenderer,
]);

/** How a chart's points and the instants of a run belong together. */
export interface Link {
  sinceAt: (x: number, y: number) => number | null;
  pointAt: (since_s: number) => [number, number] | null;
}

interface Props {
  option: EChartsCoreOption;
  height: number;
  label: string;
  link?: Link;
  /** What a click on the chart does, in its own coordinates. */
  pick?: (x: number, y: number) => void;
}

/** One chart, drawn as SVG so that it prints; `label` says in words what it shows. */
export default function Chart({ option, height, label, link, pick }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const pointer = usePointer();
  useEffect(() => {
    const box = holder.current;
    if (!box) return;
    const chart = init(box, undefined, { renderer: "svg" });
    chart.setOption({ animation: false, ...option });
    const unlink = pointer && link ? join(chart, pointer, link) : undefined;
    if (pick) onClick(chart, pick);
    const watch = new ResizeObserver(() => {
      // The first call is about the size that it was drawn at: nothing is drawn twice for that.
      if (box.clientWidth !== chart.getWidth() || box.clientHeight !== chart.getHeight()) chart.resize();
    });
    watch.observe(box);
    return () => {
      unlink?.();
      watch.disconnect();
      chart.dispose();
    };
  }, [option, pointer, link, pick]);
  return <div ref={holder} role="img" aria-label={label} style={{ height, width: "100%" }} />;
}

function onClick(chart: EChartsType, pick: (x: number, y: number) => void) {
  chart.getZr().on("click", (event: { offsetX: number; offsetY: number }) => {
    const pixel = [event.offsetX, event.offsetY];
    if (!chart.containPixel({ gridIndex: 0 }, pixel)) return;
    const [x, y] = chart.convertFromPixel({ gridIndex: 0 }, pixel) as [number, number];
    pick(x, y);
  });
}

/** Reports where the mouse is to the pointer, and marks its place in the series `pointer`. */
function join(chart: EChartsType, pointer: Pointer, link: Link): () => void {
  const zr = chart.getZr();
  zr.on("mousemove", (event: { offsetX: number; offsetY: number }) => {
    const pixel = [event.offsetX, event.offsetY];
    if (!chart.containPixel({ gridIndex: 0 }, pixel)) return;
    const [x, y] = chart.convertFromPixel({ gridIndex: 0 }, pixel) as [number, number];
    pointer.tell(link.sinceAt(x, y));
  });
  zr.on("globalout", () => pointer.tell(null));
  return pointer.listen((since_s) => {
    const point = since_s === null ? null : link.pointAt(since_s);
    chart.setOption({ series: [{ id: "pointer", data: point ? [point] : [] }] });
  });
}
