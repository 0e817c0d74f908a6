import { shown, toSi, typedNumber, unitOf, type Family } from "../../shared/units";
import { CONDITION_FIELDS, type ConditionField } from "./conditionFields";
import type { RunRow } from "./queries";

/** The conditions that differ from run to run, and those that are filled down. */
const SHOWN = [
  "charge_before_percent",
  "charge_after_percent",
  "battery_temp_before_c",
  "battery_temp_after_c",
  "outside_temp_c",
  "drive_mode",
  "driver",
];

export const GRID_COLUMNS = CONDITION_FIELDS.filter((field) => SHOWN.includes(field.name)).sort(
  (one, other) => SHOWN.indexOf(one.name) - SHOWN.indexOf(other.name),
);

/** What was typed, by the place of the cell: its row and its column. */
export type Typed = Readonly<Record<string, string>>;

export function cellKey(row: number, column: number): string {
  return `${row} ${column}`;
}

/** What stands in a cell before anything is typed in it. */
export function stored(run: RunRow, column: ConditionField, family: Family): string {
  const value = run[column.name as keyof RunRow];
  if (value === null || value === undefined || value === "") return "";
  if (!column.kind || typeof value !== "number") return String(value as string | number);
  return String(Number(shown(value, column.kind, family).toFixed(1)));
}

/** The value (SI) of a typed text; null where it is empty, undefined where it is no number. */
export function meant(
  text: string,
  column: ConditionField,
  family: Family,
): number | string | null | undefined {
  if (!column.kind) return text.trim();
  if (text.trim() === "") return null;
  const value = typedNumber(text, column.kind, family);
  return Number.isNaN(value) ? undefined : toSi(value, column.kind, family);
}

/**
 * Cells of a spreadsheet put down from a cell on; what goes beyond the last row or column is left out. An empty cell
 * changes nothing: it may have been merged with the one above.
 */
export function pasted(typed: Typed, text: string, row: number, column: number, rows: number): Typed {
  const lines = text.replace(/\r/g, "").replace(/\n$/, "").split("\n");
  const cells = lines.slice(0, rows - row).flatMap((line, down) =>
    line
      .split("\t")
      .slice(0, GRID_COLUMNS.length - column)
      .map((cell, right) => [cellKey(row + down, column + right), cell.trim()] as const)
      .filter(([, cell]) => cell !== ""),
  );
  return { ...typed, ...Object.fromEntries(cells) };
}

/** A cell's text in all rows below it. */
export function filledDown(typed: Typed, text: string, row: number, column: number, rows: number): Typed {
  const below = Array.from({ length: rows - row }, (_, down) => [cellKey(row + down, column), text] as const);
  return { ...typed, ...Object.fromEntries(below) };
}

export interface GridChanges {
  /** By run: what was typed that is another value than the stored one. */
  rows: { id: number; revision: number; changes: Record<string, unknown> }[];
  /** Cells that hold no number where one is needed. */
  wrong: string[];
}

export function changesOf(runs: readonly RunRow[], typed: Typed, family: Family): GridChanges {
  const wrong: string[] = [];
  const rows = runs.map((run, row) => {
    const changes: Record<string, unknown> = {};
    GRID_COLUMNS.forEach((column, place) => {
      const text = typed[cellKey(row, place)];
      if (text === undefined || text === stored(run, column, family)) return;
      const value = meant(text, column, family);
      if (value === undefined) wrong.push(cellKey(row, place));
      else changes[column.name] = value;
    });
    return { id: run.id, revision: run.revision, changes };
  });
  return { rows: rows.filter((row) => Object.keys(row.changes).length > 0), wrong };
}

/** What a column is in, on this page. */
export function unitName(column: ConditionField, family: Family): string {
  return column.kind ? unitOf(column.kind, family).name : "";
}
