import { palette } from "../../shared/chartStyle";
import { headline } from "../../shared/measures";
import { usePreferences } from "../../shared/preferences";
import { digitsFor, fixed } from "../../shared/units";

import { useAllCars, type AllCarsRow } from "./queries";

const STEP = 26;
const HEIGHT = 44;
const EDGE = 8;

/** A car's best time from rest, the mean of its latest setup, and its setups' means in their order. */
export function CarTimes({ car }: { car: number }) {
  const { family } = usePreferences();
  const measure = headline("standing", family);
  const key = `${measure}|rollout`;
  const rows = useAllCars([key]).data?.filter((row) => row.car === car) ?? [];
  const timed = rows.flatMap((row) => (row.values[key] ? [{ row, value: row.values[key] }] : []));
  const latest = timed.at(-1);
  if (!latest) return <p className="quiet">No {measure} yet.</p>;
  const best = Math.min(...timed.map(({ value }) => value.best));
  const { mean, u95, n } = latest.value;
  return (
    <div className="answer-row car-times">
      <div>
        <div className="label">best {measure}, rollout</div>
        <div className="answer">
          {fixed(best, 2)} <small>s</small>
        </div>
      </div>
      <div>
        <div className="label">{latest.row.setup_name}</div>
        <p>
          {fixed(mean, digitsFor(u95, 2))} s{" "}
          {u95 !== null && <span className="u95">± {fixed(u95, digitsFor(u95, 2))} s</span>}, mean of {n}
        </p>
      </div>
      {timed.length > 1 && (
        <div>
          <div className="label">means by setup, slower higher</div>
          <Means timed={timed} />
        </div>
      )}
    </div>
  );
}

/** A dot with its interval for each setup; higher is slower. */
function Means({ timed }: { timed: { row: AllCarsRow; value: AllCarsRow["values"][string] }[] }) {
  const { mode } = usePreferences();
  const p = palette(mode);
  const ends = timed.flatMap(({ value }) => [value.mean - (value.u95 ?? 0), value.mean + (value.u95 ?? 0)]);
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  const at = (value: number) => HEIGHT - EDGE - ((value - low) / (high - low || 1)) * (HEIGHT - 2 * EDGE);
  return (
    <svg
      width={STEP * timed.length}
      height={HEIGHT}
      role="img"
      aria-label={`Means by setup: ${timed.map(({ row, value }) => `${row.setup_name} ${fixed(value.mean, 2)} s`).join(", ")}`}
    >
      {timed.map(({ row, value }, place) => {
        const x = STEP * (place + 0.5);
        const half = value.u95 ?? 0;
        return (
          <g key={row.setup} stroke={p.ink} fill={p.ink}>
            <title>{`${row.setup_name}: ${fixed(value.mean, 2)} s`}</title>
            <line x1={x} x2={x} y1={at(value.mean - half)} y2={at(value.mean + half)} strokeWidth={1.5} />
            <circle cx={x} cy={at(value.mean)} r={3.5} stroke="none" />
          </g>
        );
      })}
    </svg>
  );
}
