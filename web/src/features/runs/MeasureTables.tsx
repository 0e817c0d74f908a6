import type { Schemas } from "../../api/client";
import { fixed, shown, unitOf, type Family } from "../../shared/units";
import { CLOCK_NAMES } from "./measures";
import type { Run } from "./queries";

export type Row = Run["measured"][number];
type Corrected = Schemas["Corrected"];

/** Times on both clocks side by side, the corrected one beside the raw one, and the speed at a line. */
export function TimeTable(props: { rows: Row[]; family: Family; corrected: Corrected | null }) {
  const { rows, family, corrected } = props;
  const names = [...new Set(rows.map((row) => row.name))];
  const find = (name: string, clock: string) => rows.find((row) => row.name === name && row.clock === clock);
  const speed = unitOf("speed", family);
  const both = rows.some((row) => row.clock === "first_movement");
  const lines = rows.some((row) => typeof row.line_speed_mps === "number");
  const has = corrected !== null && corrected.parts.length > 0;
  return (
    <div className="scroll">
      <table className="plain">
        <thead>
          <tr>
            <th>Measure</th>
            <th className="n">{both ? CLOCK_NAMES.rollout : "time"}, s</th>
            {both && <th className="n">{CLOCK_NAMES.first_movement},&nbsp;s</th>}
            {has && <th className="n">corrected, s</th>}
            {lines && <th className="n">at the line,&nbsp;{speed.name}</th>}
          </tr>
        </thead>
        <tbody>
          {names.map((name) => {
            const row = find(name, "rollout") ?? find(name, "speed");
            const first = find(name, "first_movement");
            const beside = corrected?.measured.find(
              (each) => each.name === name && each.clock === row?.clock,
            );
            const line = row?.line_speed_mps;
            return (
              <tr key={name}>
                <td>{name}</td>
                <Time seconds={row?.time_s} half={row?.time_u95_s} />
                {both && <Time seconds={first?.time_s} half={first?.time_u95_s} />}
                {has && <Time seconds={beside?.time_s} half={beside?.time_u95_s} />}
                {lines && (
                  <td className="n">{typeof line === "number" && fixed(shown(line, "speed", family), 1)}</td>
                )}
              </tr>
            );
          })}
        </tbody>
      </table>
      <Explained corrected={corrected} both={both} />
    </div>
  );
}

function Explained({ corrected, both }: { corrected: Corrected | null; both: boolean }) {
  const clock = both ? " on the rollout clock" : "";
  return (
    <>
      <p className="label">
        ± is the half-width of the 95 % interval.
        {corrected?.reference && ` Corrected${clock}: the same run on ${corrected.reference}.`}
        {corrected &&
          corrected.assumed.length > 0 &&
          ` Assumed: ${corrected.assumed.join(", ").replaceAll("_", " ")}.`}
      </p>
      {corrected?.missing.map((each) => (
        <p key={each} className="label">
          {each}
        </p>
      ))}
    </>
  );
}

function Time({ seconds, half }: { seconds: number | null | undefined; half: number | null | undefined }) {
  return (
    <td className="n">
      {fixed(seconds, 2)} {typeof seconds === "number" && <span className="u95">± {fixed(half, 2)}</span>}
    </td>
  );
}

export function StopTable({ rows, family }: { rows: Row[]; family: Family }) {
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
              <Way value={way(row.distance_m)} half={way(row.distance_u95_m)} />
              <Way value={way(row.onset_distance_m)} half={way(row.onset_distance_u95_m)} />
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

function Way({ value, half }: { value: number | null; half: number | null }) {
  return (
    <td className="n">
      {fixed(value, 1)} {value !== null && <span className="u95">± {fixed(half, 1)}</span>}
    </td>
  );
}
