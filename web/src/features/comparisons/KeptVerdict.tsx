import type { Schemas } from "../../api/client";
import { palette } from "../../shared/chartStyle";
import { usePreferences } from "../../shared/preferences";
import { halfWidth, quantityOf, signed } from "./quantity";

type Row = Schemas["ComparisonRow"];
const WIDTH = 120;
const HEIGHT = 18;

/** What a saved comparison came to: for each pair its number, its interval as a bar about zero, and the word. */
export function KeptVerdict({ row }: { row: Row }) {
  const { family } = usePreferences();
  const quantity = quantityOf(row.quantity, family);
  if (row.verdicts.length === 0) return <>–</>;
  return (
    <>
      {row.verdicts.map(({ verdict, difference }, place) => (
        <div key={place} className="kept-verdict">
          {difference && (
            <>
              <span className="number">
                {signed(difference.value, quantity, difference)} {quantity.unit}{" "}
                <span className="u95">± {halfWidth(difference, quantity)}</span>
              </span>
              <Bar difference={difference} quiet={verdict === "not comparable"} />
            </>
          )}
          <span>{verdict}</span>
        </div>
      ))}
    </>
  );
}

function Bar({ difference, quiet }: { difference: Schemas["Difference"]; quiet: boolean }) {
  const { mode } = usePreferences();
  const p = palette(mode);
  const { low95, high95, value } = difference;
  const reach = 1.15 * Math.max(Math.abs(low95), Math.abs(high95)) || 1;
  const at = (si: number) => (WIDTH / 2) * (1 + si / reach);
  const color = !quiet && (low95 > 0 || high95 < 0) ? p.accent : p.quiet;
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden="true">
      <line x1={WIDTH / 2} x2={WIDTH / 2} y1={0} y2={HEIGHT} stroke={p.ink} />
      <line x1={at(low95)} x2={at(high95)} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke={color} strokeWidth={4} />
      <line x1={at(value)} x2={at(value)} y1={3} y2={HEIGHT - 3} stroke={color} strokeWidth={3} />
    </svg>
  );
}
