import { Term } from "../../shared/Term";
import { Switch } from "antd";

import { DataTable } from "../../shared/DataTable";
import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf, type Family, type Kind } from "../../shared/units";
import type { Ask } from "./ask";
import type { Pair } from "./queries";

type Row = Pair["condition_differences"][number];
type Adjustable = NonNullable<Ask["adjust"]>[number];
const ADJUSTABLE: string[] = ["charge", "battery temperature", "slope", "head wind", "air density"];
const KINDS: Record<string, Kind> = {
  "°C": "temperature",
  "m/s": "speed",
  kg: "mass",
  km: "odometer",
  kPa: "pressure",
};

interface Props {
  pair: Pair;
  names: [string, string];
  ask: Ask;
  change?: (changes: Partial<Ask>) => void;
}

/** Everything that was noted of both groups: what differs or is known to matter, then what is alike, folded away. */
export function ConditionDifferencesSheet({ pair, names, ask, change }: Props) {
  if (pair.condition_differences.length === 0) return null;
  const listed = pair.condition_differences.filter(
    (row) => row.differs || row.effect || ADJUSTABLE.includes(row.factor),
  );
  const first = listed.filter((row) => row.differs);
  const rest = pair.condition_differences.filter((row) => !listed.includes(row));
  const table = (rows: Row[], label: string) => (
    <Conditions rows={rows} label={label} pair={pair} names={names} ask={ask} change={change} />
  );
  return (
    <section className="sheet" aria-label="Differences in conditions">
      <h2>
        Differences in conditions
        <Term word="condition" />
      </h2>
      {table([...first, ...listed.filter((row) => !row.differs)], "Conditions that differ or could matter")}
      {rest.length > 0 && (
        <details>
          <summary>{rest.length} more conditions, alike</summary>
          {table(rest, "Conditions that are alike")}
        </details>
      )}
      {Object.values(pair.refused).map((reason) => (
        <p key={reason}>{reason}</p>
      ))}
    </section>
  );
}

function Conditions({ rows, label, pair, names, ask, change }: Props & { rows: Row[]; label: string }) {
  const { family } = usePreferences();
  const removed = (row: Row) => pair.adjustments.find((each) => each.factor === row.factor)?.removed;
  return (
    <DataTable
      label={label}
      rows={rows}
      rowKey={(row) => row.factor}
      rowClass={(row) => (row.differs && !row.adjusted ? "differs" : "")}
      columns={[
        { title: "Condition", value: (row) => row.factor },
        { title: names[0], number: true, value: (row) => side(row, "before", family) },
        { title: names[1], number: true, value: (row) => side(row, "after", family) },
        { title: "Alike?", value: (row) => alike(row, pair) },
        { title: "could account for, s", number: true, value: (row) => effect(row, removed(row)) },
        { title: "Source", wrap: true, value: (row) => <span className="quiet">{row.source}</span> },
        change !== undefined && {
          title: "Adjust",
          value: ({ factor }) =>
            ADJUSTABLE.includes(factor) && (
              <Switch
                size="small"
                aria-label={`Adjust for ${factor}`}
                checked={ask.adjust?.includes(factor as Adjustable)}
                onChange={(on) => change({ adjust: switched(ask, factor as Adjustable, on) })}
              />
            ),
        },
      ]}
    />
  );
}

function alike(row: Row, pair: Pair): string {
  if (row.adjusted) return "adjusted";
  if (pair.separating.includes(row.factor)) return "follows the groups";
  if (row.differs) return "differs";
  return row.before_noted === 0 || row.after_noted === 0 ? "unknown" : "yes";
}

function switched(ask: Ask, factor: Adjustable, on: boolean): Adjustable[] {
  const others = (ask.adjust ?? []).filter((each) => each !== factor);
  return on ? [...others, factor] : others;
}

function effect(row: Row, removed: number | undefined): string {
  if (removed !== undefined) return `${fixed(removed, 3)} removed`;
  if (row.effect && Math.abs(row.effect.value) + row.effect.u95 < 0.0005) return "nothing";
  return row.effect ? `${fixed(row.effect.value, 3)} ± ${fixed(row.effect.u95, 3)}` : "";
}

/** A mean in the family's unit, or how often each word was noted. */
function side(row: Row, group: "before" | "after", family: Family): string {
  const words = Object.entries(row[`${group}_words`]);
  if (words.length) return words.map(([word, count]) => `${word} × ${count}`).join(", ");
  const mean = row[group];
  if (mean === null) return row.unit ? "–" : "";
  if (row.unit === "h") return clockTime(mean);
  const kind = KINDS[row.unit];
  if (!kind) return `${fixed(mean, row.digits)} ${row.unit}`;
  return `${fixed(shown(mean, kind, family), row.digits)} ${unitOf(kind, family).name}`;
}

function clockTime(hours: number): string {
  const minutes = Math.round(60 * hours);
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
}
