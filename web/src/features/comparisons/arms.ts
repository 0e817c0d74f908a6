import type { Palette } from "../../theme";

/** How the arms are drawn: before dashed and after solid, as everywhere; further ones in ink, by their dash. */
export const DASHES: ([number, number] | "solid")[] = [[7, 4], "solid", [2, 3], [12, 3], [5, 2], [1, 5]];

export function armColor(place: number, p: Palette): string {
  return place === 0 ? p.before : place === 1 ? p.after : place % 2 ? p.quiet : p.ink;
}

export function armMark(place: number): string {
  return `arm-mark${place === 0 ? "" : place === 1 ? " after" : ` further-${place}`}`;
}
