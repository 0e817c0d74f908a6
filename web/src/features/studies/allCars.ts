import { fixed, shown, unitOf, type Family, type Kind } from "../../shared/units";
import type { AllCarsRow, OwnMeasure } from "./queries";

export const USUAL_MEASURES = [
  "0-60 mph|rollout",
  "0-60 mph|first_movement",
  "1/4 mile|rollout",
  "60 ft|rollout",
  "30-70 mph|speed",
  "60-0 mph|speed",
];

export interface CarColumn {
  key: string;
  title: (family: Family) => string;
  /** What rows are sorted and plotted by. */
  value: (row: AllCarsRow) => number | string | null;
  number: boolean;
  kind: Kind;
}

const fact = (key: keyof AllCarsRow, title: string, kind: Kind | null = null): CarColumn => ({
  key,
  title: (family) => (kind && kind !== "plain" ? `${title}, ${unitOf(kind, family).name}` : title),
  value: (row) => row[key] as number | string | null,
  number: kind !== null,
  kind: kind ?? "plain",
});

export const FACTS: readonly CarColumn[] = [
  fact("maker", "Maker"),
  fact("model_year", "Year", "plain"),
  fact("drive_layout", "Drive"),
  fact("body", "Body"),
  fact("software_version", "Software"),
  fact("tires", "Tires"),
  fact("wheel_diameter_in", "Wheels, in", "plain"),
  fact("wheel_mass_kg", "Wheel with tire", "mass"),
  fact("test_mass_kg", "Test mass", "mass"),
  fact("power_kw", "Stated power", "power"),
  { ...fact("mass_per_power_kg_per_kw", "Mass by power, kg/kW", "plain") },
  fact("battery_kwh", "Battery, kWh", "plain"),
];

export const CLAIM: CarColumn = {
  key: "claim",
  title: () => "Claimed 0-60 mph, s",
  value: (row) => row.claims.find((claim) => claim.measure === "0-60 mph")?.value_s ?? null,
  number: true,
  kind: "plain",
};

/** A column of a measure, such as `0-60 mph|rollout`, or of an own one, such as `own|3`. */
export function measureColumn(key: string, own: readonly OwnMeasure[]): CarColumn {
  const [name = "", clock = ""] = key.split("|");
  const mine = name === "own" ? own.find((measure) => measure.id === Number(clock)) : undefined;
  const kind: Kind = mine ? "plain" : name.includes("-0 ") ? "distance" : "time";
  const label = mine ? mine.name : clock === "first_movement" ? `${name}, first movement` : name;
  return {
    key,
    title: (family) => `${label}, ${mine ? (mine.unit ?? "") : unitOf(kind, family).name}`.replace(/, $/, ""),
    value: (row) => row.values[key]?.mean ?? null,
    number: true,
    kind,
  };
}

export function columnsOf(keys: readonly string[], own: readonly OwnMeasure[]): CarColumn[] {
  const facts = new Map([...FACTS, CLAIM].map((column) => [column.key, column]));
  return keys.map((key) => facts.get(key) ?? measureColumn(key, own));
}

/** What a cell of a fact says. */
export function factText(row: AllCarsRow, column: CarColumn, family: Family): string {
  const value = column.value(row);
  if (value === null || value === "") return "–";
  if (typeof value === "string") return value;
  const digits =
    column.key === "model_year" || column.key === "wheel_diameter_in"
      ? 0
      : column.kind === "plain"
        ? 2
        : unitOf(column.kind, family).digits;
  return fixed(shown(value, column.kind, family), digits);
}

/** Rows in the order of a column, those without a value last; a minus before the key turns it round. */
export function sorted(
  rows: readonly AllCarsRow[],
  sort: string,
  columns: readonly CarColumn[],
): AllCarsRow[] {
  const column = columns.find((each) => each.key === sort.replace(/^-/, ""));
  if (!column) return [...rows];
  const sign = sort.startsWith("-") ? -1 : 1;
  return [...rows].sort((one, other) => {
    const [a, b] = [column.value(one), column.value(other)];
    if (a === null || a === "") return b === null || b === "" ? 0 : 1;
    if (b === null || b === "") return -1;
    return (
      sign * (typeof a === "number" && typeof b === "number" ? a - b : String(a).localeCompare(String(b)))
    );
  });
}

/** Rows of which some word holds what was typed, in every word of it. */
export function matching(rows: readonly AllCarsRow[], text: string): AllCarsRow[] {
  const wanted = text.toLowerCase().split(/\s+/).filter(Boolean);
  return rows.filter((row) => {
    const words = [
      row.car_name,
      row.setup_name,
      row.maker,
      row.body,
      row.drive_layout,
      row.tires,
      row.software_version,
    ]
      .join(" ")
      .toLowerCase();
    return wanted.every((word) => words.includes(word));
  });
}
