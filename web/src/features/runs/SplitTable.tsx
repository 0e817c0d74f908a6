import { fixed, shown, unitOf, type Family } from "../../shared/units";
import type { Run } from "./queries";

export function SplitTable({ splits, family }: { splits: Run["splits"]; family: Family }) {
  const unit = unitOf("speed", family).name;
  const way = unitOf("distance", family).name;
  return (
    <section className="sheet">
      <h2>Splits</h2>
      <div className="scroll">
        <table className="plain">
          <thead>
            <tr>
              <th className="n">{unit}</th>
              <th className="n">rollout, s</th>
              <th className="n">first movement, s</th>
              <th className="n">from staged, {way}</th>
            </tr>
          </thead>
          <tbody>
            {splits
              .filter((split) => split.unit === unit)
              .map((split) => (
                <tr key={split.speed}>
                  <td className="n">{split.speed}</td>
                  <td className="n">
                    {fixed(split.rollout_s, 2)} <span className="u95">± {fixed(split.rollout_u95_s, 2)}</span>
                  </td>
                  <td className="n">
                    {fixed(split.first_movement_s, 2)}{" "}
                    <span className="u95">± {fixed(split.first_movement_u95_s, 2)}</span>
                  </td>
                  <td className="n">{fixed(shown(split.distance_m, "distance", family), 1)}</td>
                </tr>
              ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
