import { Switch } from "antd";

import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf, type Family, type Kind } from "../../shared/units";
import type { Ask } from "./ask";
import type { Pair } from "./queries";

type Row = Pair["balance"][number];
type Adjustable = NonNullable<Ask["adjust"]>[number];
const ADJUSTABLE: string[] = ["charge", "pack temperature", "slope", "head wind", "air density"];
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

/** Everything that was noted of both arms: what differs or is known to matter, then what is alike, folded away. */
export function BalanceSheet({ pair, names, ask, change }: Props) {
  if (pair.balance.length === 0) return null;
  const told = pair.balance.filter((row) => row.differs || row.effect || ADJUSTABLE.includes(row.factor));
  const first = told.filter((row) => row.differs);
  const rest = pair.balance.filter((row) => !told.includes(row));
  const table = (rows: Row[], label: string) => (
    <Table rows={rows} label={label} pair={pair} names={names} ask={ask} change={change} />
  );
  return (
    <section className="sheet" aria-label="Like with like">
      <h2>Like with like</h2>
      {table([...first, ...told.filter((row) => !row.differs)], "What differs or matters")}
      {rest.length > 0 && (
        <details>
          <summary>{rest.length} more that were noted, alike</summary>
          {table(rest, "What is alike")}
        </details>
      )}
      {Object.values(pair.refused).map((reason) => (
        <p key={reason}>{reason}</p>
      ))}
    </section>
  );
}

function Table({ rows, label, pair, names, ask, change }: Props & { rows: Row[]; label: string }) {
  return (
    <div className="scroll">
      <table className="plain one-line" aria-label={label}>
        <thead>
          <tr>
            <th>Noted</th>
            <th className="n">{names[0]}</th>
            <th className="n">{names[1]}</th>
            <th>Alike</th>
            <th className="n">could explain, s</th>
            <th>How that is known</th>
            {change && <th>Adjust</th>}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <Line key={row.factor} row={row} pair={pair} ask={ask} change={change} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Line({ row, pair, ask, change }: { row: Row; pair: Pair; ask: Ask; change?: Props["change"] }) {
  const { family } = usePreferences();
  const taken = pair.adjustments.find((each) => each.factor === row.factor);
  return (
    <tr className={row.differs && !row.adjusted ? "differs" : undefined}>
      <td>{row.factor}</td>
      <td className="n">{side(row, "before", family)}</td>
      <td className="n">{side(row, "after", family)}</td>
      <td>{alike(row, pair)}</td>
      <td className="n">{effect(row, taken?.removed)}</td>
      <td className="quiet wraps">{row.source}</td>
      {change && (
        <td>
          {ADJUSTABLE.includes(row.factor) && (
            <Switch
              size="small"
              aria-label={`Adjust for ${row.factor}`}
              checked={ask.adjust?.includes(row.factor as Adjustable)}
              onChange={(on) => change({ adjust: switched(ask, row.factor as Adjustable, on) })}
            />
          )}
        </td>
      )}
    </tr>
  );
}

function alike(row: Row, pair: Pair): string {
  if (row.adjusted) return "adjusted";
  if (pair.separating.includes(row.factor)) return "goes with the groups";
  if (row.differs) return "differs";
  return row.before_noted === 0 || row.after_noted === 0 ? "not known" : "yes";
}

function switched(ask: Ask, factor: Adjustable, on: boolean): Adjustable[] {
  const others = (ask.adjust ?? []).filter((each) => each !== factor);
  return on ? [...others, factor] : others;
}

function effect(row: Row, removed: number | undefined): string {
  if (removed !== undefined) return `${fixed(removed, 3)} taken out`;
  if (row.effect && Math.abs(row.effect.value) + row.effect.u95 < 0.0005) return "nothing";
  return row.effect ? `${fixed(row.effect.value, 3)} ± ${fixed(row.effect.u95, 3)}` : "";
}

/** A mean in the family's unit, or how often each word was noted. */
function side(row: Row, arm: "before" | "after", family: Family): string {
  const words = Object.entries(row[`${arm}_words`]);
  if (words.length) return words.map(([word, count]) => `${word} × ${count}`).join(", ");
  const mean = row[arm];
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
