import { axis } from "./chartStyle";
import type { Palette } from "../theme";

const LEAST = 10;
const ROOM = 1.1;

interface Ends {
  min: number;
  max: number;
}

/**
 * The ends of both axes of a map in one scale: the wider side fills a frame that is `aspect` times as wide as high, the
 * other gets room on both sides.
 */
export function toScale(
  east: readonly number[],
  north: readonly number[],
  aspect: number,
): { east: Ends; north: Ends } {
  const [across, up] = [span(east), span(north)];
  const tall = ROOM * Math.max(up.width, across.width / aspect, LEAST);
  return { east: around(across.middle, tall * aspect), north: around(up.middle, tall) };
}

function span(values: readonly number[]) {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  return { width: high - low, middle: (high + low) / 2 };
}

function around(middle: number, width: number): Ends {
  return { min: middle - width / 2, max: middle + width / 2 };
}

/** An axis of a map: its ends are no round numbers, so they have no label. */
export function mapAxis(p: Palette, name: string) {
  const plain = axis(p, name);
  const axisLabel = { ...plain.axisLabel, showMinLabel: false, showMaxLabel: false };
  return { ...plain, axisLabel, axisLine: { show: false }, axisTick: { show: false }, splitNumber: 4 };
}
