import { usePreferences } from "../../shared/preferences";
import { fixed } from "../../shared/units";
import { inFamily } from "../runs/measures";
import type { Details, Result } from "./queries";

/** What the same runs say of other measures, and what the arms would do at another charge. */
export function OtherMeasures({ details, result }: { details: Details; result: Result }) {
  const { family } = usePreferences();
  const rows = details.others.filter((row) => inFamily(row.measure, family));
  const projected = details.projections.filter((row) => row.value !== null);
  return (
    <>
      {rows.length > 1 && (
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
                    {fixed(row.value, 3)}{" "}
                    <span className="u95">± {fixed((row.high95 - row.low95) / 2, 3)}</span>
                  </td>
                  <td className="n">{row.p_adjusted < 0.001 ? "under 0.001" : row.p_adjusted.toFixed(3)}</td>
                  <td>{row.shown ? "yes" : "no"}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {projected.length > 0 && (
        <section className="sheet" aria-label="Projections">
          <h2>Projected, not driven</h2>
          <table className="plain">
            <thead>
              <tr>
                <th>Arm</th>
                <th className="n">at charge</th>
                <th className="n">{result.measure}, s</th>
              </tr>
            </thead>
            <tbody>
              {projected.map((row) => (
                <tr key={`${row.arm} ${row.charge_percent}`}>
                  <td>{result.arms[row.arm]?.name}</td>
                  <td className="n">{row.charge_percent} %</td>
                  <td className="n">
                    {fixed(row.value, 3)} <span className="u95">± {fixed(row.u95, 3)}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="label">{projected[0]?.said}</p>
        </section>
      )}
    </>
  );
}
