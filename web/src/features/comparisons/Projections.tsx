import { fixed } from "../../shared/units";
import { toTheSecond } from "../runs/measures";
import type { Details, Result } from "./queries";

/** What the arms would do at another charge, by the car's own sweep; marked as what nobody drove. */
export function Projections({ details, result }: { details: Details; result: Result }) {
  const projected = details.projections.filter((row) => row.value !== null);
  const unreached = details.unreached.filter((row) => row.value !== null);
  if (!projected.length && !unreached.length) return null;
  return (
    <section className="sheet" aria-label="Projections">
      <h2>Projected, not driven</h2>
      {projected.length > 0 && (
        <>
          <table className="plain">
            <thead>
              <tr>
                <th>Group</th>
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
        </>
      )}
      {unreached.map((row) => (
        <p key={row.run}>
          The pull of {toTheSecond(row.start_utc)}, lifted before: {fixed(row.value, 2)} s{" "}
          <span className="u95">± {fixed(row.u95, 2)}</span>, {row.said}.
        </p>
      ))}
    </section>
  );
}
