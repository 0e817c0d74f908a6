import type { Palette } from "../../theme";

/** How the groups are drawn: before dashed and after solid, as everywhere; further ones in ink, by their dash. */
export const DASHES: ([number, number] | "solid")[] = [[7, 4], "solid", [2, 3], [12, 3], [5, 2], [1, 5]];

export function groupColor(place: number, p: Palette): string {
  return place === 0 ? p.before : place === 1 ? p.after : place % 2 ? p.quiet : p.ink;
}

export function groupMark(place: number): string {
  return `group-mark${place === 0 ? "" : place === 1 ? " after" : ` further-${place}`}`;
}
