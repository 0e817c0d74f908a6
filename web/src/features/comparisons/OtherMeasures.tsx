import { usePreferences } from "../../shared/preferences";
import { fixed } from "../../shared/units";
import { inFamily } from "../runs/measures";
import type { Details } from "./queries";

/** What the same runs say of other measures. */
export function OtherMeasures({ details }: { details: Details }) {
  const { family } = usePreferences();
  const rows = details.others.filter((row) => inFamily(row.measure, family));
  if (rows.length < 2) return null;
  return (
    <section className="sheet" aria-label="Other measures">
      <h2>Other measures of these runs</h2>
      <table className="plain">
        <thead>
          <tr>
            <th>Measure</th>
            <th className="n">difference, s</th>
            <th className="n">p, corrected for {details.others.length}</th>
            <th>Shown</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.measure}>
              <td>{row.measure}</td>
              <td className="n">
                {fixed(row.value, 3)} <span className="u95">± {fixed((row.high95 - row.low95) / 2, 3)}</span>
              </td>
              <td className="n">{row.p_adjusted < 0.001 ? "under 0.001" : row.p_adjusted.toFixed(3)}</td>
              <td>{row.shown ? "yes" : "no"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
