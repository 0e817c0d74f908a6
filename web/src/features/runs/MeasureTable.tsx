import { fixed, shown, unitOf, type Family } from "../../shared/units";
import { CLOCK_NAMES, inFamily } from "./measures";
import type { Run } from "./queries";

type Row = Run["measured"][number];

/** Every measure that the run reached, its clocks side by side. */
export function MeasureTable({ run, family }: { run: Run; family: Family }) {
  const rows = run.measured.filter((row) => inFamily(row.name, family));
  if (!rows.length) return <section className="sheet">No measure was reached.</section>;
  return (
    <section className="sheet">
      <h2>Measures</h2>
      {run.kind === "stop" ? <Stops rows={rows} family={family} /> : <Times rows={rows} family={family} />}
    </section>
  );
}

function Times({ rows, family }: { rows: Row[]; family: Family }) {
  const names = [...new Set(rows.map((row) => row.name))];
  const find = (name: string, clock: string) => rows.find((row) => row.name === name && row.clock === clock);
  const speed = unitOf("speed", family);
  return (
    <div className="scroll">
      <table className="plain">
        <thead>
          <tr>
            <th>Measure</th>
            <th className="n">{CLOCK_NAMES.rollout}, s</th>
            <th className="n">{CLOCK_NAMES.first_movement}, s</th>
            <th className="n">level, s</th>
            <th className="n">at the line, {speed.name}</th>
          </tr>
        </thead>
        <tbody>
          {names.map((name) => {
            const rollout = find(name, "rollout") ?? find(name, "speed");
            const line = rollout?.line_speed_mps;
            return (
              <tr key={name}>
                <td>{name}</td>
                <Time row={rollout} />
                <Time row={find(name, "first_movement")} />
                <td className="n">{fixed(rollout?.corrected_time_s, 2)}</td>
                <td className="n">
                  {fixed(typeof line === "number" ? shown(line, "speed", family) : null, 1)}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="label">
        ± is the half-width of the 95 % interval. Level: on the rollout clock, re-integrated for a course
        without slope.
      </p>
    </div>
  );
}

function Time({ row }: { row: Row | undefined }) {
  return (
    <td className="n">
      {fixed(row?.time_s, 2)} {row && <span className="u95">± {fixed(row.time_u95_s, 2)}</span>}
    </td>
  );
}

function Stops({ rows, family }: { rows: Row[]; family: Family }) {
  const unit = unitOf("distance", family);
  const way = (metres: number | null | undefined) =>
    typeof metres === "number" ? metres / unit.factor : null;
  return (
    <div className="scroll">
      <table className="plain">
        <thead>
          <tr>
            <th>Measure</th>
            <th className="n">through nominal, {unit.name}</th>
            <th className="n">from onset, {unit.name}</th>
            <th className="n">time, s</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name}>
              <td>{row.name}</td>
              <td className="n">
                {fixed(way(row.distance_m), 1)}{" "}
                <span className="u95">± {fixed(way(row.distance_u95_m), 1)}</span>
              </td>
              <td className="n">{fixed(way(row.onset_distance_m), 1)}</td>
              <td className="n">{fixed(row.time_s, 2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="label">
        From onset is corrected to the nominal speed and given where the stop began within 3 % of it. Driver
        reaction is in neither.
      </p>
    </div>
  );
}
