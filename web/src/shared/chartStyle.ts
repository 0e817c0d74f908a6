import { lazy } from "react";

import { PALETTES, type Palette } from "../theme";

/** The chart library is large: it is fetched when the first chart is drawn. */
export const Chart = lazy(() => import("./Chart"));

export function palette(mode: "light" | "dark"): Palette {
  return PALETTES[mode];
}

export function axis(p: Palette, name: string) {
  return {
    type: "value" as const,
    name,
    nameLocation: "middle" as const,
    nameGap: 30,
    nameTextStyle: { color: p.quiet, fontSize: 13 },
    axisLabel: { color: p.quiet, fontSize: 12 },
    axisLine: { show: true, lineStyle: { color: p.ink } },
    splitLine: { lineStyle: { color: p.rule, type: "dotted" as const } },
  };
}

export function tooltip(p: Palette) {
  return { backgroundColor: p.paper, borderColor: p.ink, textStyle: { color: p.ink, fontSize: 13 } };
}
