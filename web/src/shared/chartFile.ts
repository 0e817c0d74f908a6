import { init, type EChartsCoreOption } from "echarts/core";

import "./Chart";

const WIDTH = 1000;
const HEIGHT = 520;

/** A chart as a data address: vectors as they are drawn, or those vectors painted at twice the size. */
export async function drawnAs(option: EChartsCoreOption, kind: "svg" | "png"): Promise<string> {
  const chart = init(null, undefined, { renderer: "svg", ssr: true, width: WIDTH, height: HEIGHT });
  chart.setOption({ animation: false, backgroundColor: "#ffffff", ...option });
  const svg = chart.renderToSVGString();
  chart.dispose();
  const address = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  return kind === "svg" ? address : painted(address);
}

async function painted(address: string): Promise<string> {
  const image = new Image();
  image.src = address;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = 2 * WIDTH;
  canvas.height = 2 * HEIGHT;
  canvas.getContext("2d")?.drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas.toDataURL("image/png");
}
