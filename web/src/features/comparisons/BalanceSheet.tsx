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

/** Everything that was noted of both arms; what differs is marked, with what it could explain. */
export function BalanceSheet({ pair, names, ask, change }: Props) {
  if (pair.balance.length === 0) return null;
  const rows = [...pair.balance].sort((a, b) => Number(b.differs) - Number(a.differs));
  return (
    <section className="sheet" aria-label="Like with like">
      <h2>Like with like</h2>
      <div className="scroll">
        <table className="plain one-line">
          <thead>
            <tr>
              <th>Noted</th>
              <th className="n">{names[0]}</th>
              <th className="n">{names[1]}</th>
              <th>Alike</th>
              <th className="n">could explain, s</th>
              <th>How that is known</th>
              <th>Adjust</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <Line key={row.factor} row={row} pair={pair} ask={ask} change={change} />
            ))}
          </tbody>
        </table>
      </div>
      {Object.values(pair.refused).map((reason) => (
        <p key={reason}>{reason}</p>
      ))}
    </section>
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
      <td>{row.adjusted ? "adjusted" : row.differs ? "differs" : missing(row) ? "not known" : "yes"}</td>
      <td className="n">{effect(row, taken?.removed)}</td>
      <td className="quiet wraps">{row.source}</td>
      <td>
        {ADJUSTABLE.includes(row.factor) && (
          <Switch
            size="small"
            aria-label={`Adjust for ${row.factor}`}
            disabled={!change}
            checked={ask.adjust?.includes(row.factor as Adjustable)}
            onChange={(on) => change?.({ adjust: switched(ask, row.factor as Adjustable, on) })}
          />
        )}
      </td>
    </tr>
  );
}

function switched(ask: Ask, factor: Adjustable, on: boolean): Adjustable[] {
  const others = (ask.adjust ?? []).filter((each) => each !== factor);
  return on ? [...others, factor] : others;
}

function missing(row: Row): boolean {
  return row.before_noted === 0 || row.after_noted === 0;
}

function effect(row: Row, removed: number | undefined): string {
  if (removed !== undefined) return `${fixed(removed, 3)} taken out`;
  return row.effect ? `${fixed(row.effect.value, 3)} ± ${fixed(row.effect.u95, 3)}` : "";
}

/** A mean in the family's unit, or how often each word was noted. */
function side(row: Row, arm: "before" | "after", family: Family): string {
  const words = Object.entries(row[`${arm}_words`]);
  if (words.length) return words.map(([word, count]) => `${word} ${count}`).join(", ");
  const mean = row[arm];
  if (mean === null) return row.unit ? "–" : "";
  const kind = KINDS[row.unit];
  if (!kind) return `${fixed(mean, row.digits)} ${row.unit}`;
  return `${fixed(shown(mean, kind, family), row.digits)} ${unitOf(kind, family).name}`;
}
