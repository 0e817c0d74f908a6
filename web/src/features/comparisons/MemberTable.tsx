import { Link } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { withUnit } from "../../shared/units";
import { dayAndTime } from "../runs/measures";
import { armMark } from "./arms";
import type { Result } from "./queries";
import { useQuantity } from "./quantity";

/** The runs behind the numbers; what dropped out says why. */
export function MemberTable({ result }: { result: Result }) {
  const quantity = useQuantity(result);
  const { family } = usePreferences();
  return (
    <section className="sheet">
      <h2>Runs</h2>
      <div className="scroll">
        <table className="plain">
          <thead>
            <tr>
              <th>Group</th>
              <th>Run, UTC</th>
              <th>Set-up</th>
              <th>Direction</th>
              <th className="n">Charge</th>
              <th className="n">Pack</th>
              <th className="n">
                {result.measure}, {quantity.unit}
              </th>
            </tr>
          </thead>
          <tbody>
            {result.runs.map((run) => (
              <tr key={run.id}>
                <td>
                  <span className={armMark(run.arm)} />
                  {result.arms[run.arm]?.name}
                </td>
                <td className="nowrap">
                  <Link to={`/runs/${run.id}`}>{dayAndTime(run.start_utc)}</Link>
                </td>
                <td>{run.set_up_name}</td>
                <td>{run.direction || "–"}</td>
                <td className="n">{withUnit(run.charge_before_percent, "percent", family)}</td>
                <td className="n">{withUnit(run.pack_temp_before_c, "temperature", family)}</td>
                <td className="n">
                  {run.dropped ? (
                    <span className="quiet">{run.dropped}</span>
                  ) : (
                    <>
                      {quantity.text(run.value)} <span className="u95">± {quantity.text(run.u95)}</span>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
