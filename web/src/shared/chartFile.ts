import { init, type EChartsCoreOption } from "echarts/core";

import "./Chart";
import { addressOf, painted } from "./painted";

const WIDTH = 1000;
const HEIGHT = 520;

/** A chart as a data address: vectors as they are drawn, or those vectors painted at twice the size. */
export async function drawnAs(option: EChartsCoreOption, kind: "svg" | "png"): Promise<string> {
  const chart = init(null, undefined, { renderer: "svg", ssr: true, width: WIDTH, height: HEIGHT });
  chart.setOption({ animation: false, backgroundColor: "#ffffff", ...option });
  const svg = chart.renderToSVGString();
  chart.dispose();
  const address = addressOf(svg);
  return kind === "svg" ? address : (await painted(address, WIDTH, HEIGHT)).toDataURL("image/png");
}
