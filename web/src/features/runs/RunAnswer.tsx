import { Term } from "../../shared/Term";
import { digitsBeside, fixed, shown, unitOf, withUnit, type Family } from "../../shared/units";
import { CLOCK_NAMES, headline } from "../../shared/measures";
import type { Run } from "./queries";

type Measured = Run["measured"][number];

export function RunAnswer({ run, family }: { run: Run; family: Family }) {
  const name = headline(run.kind, family);
  const rows = run.measured.filter((row) => row.name === name);
  const rollout = rows.find((row) => row.clock === "rollout");
  const first = rows.find((row) => row.clock === "first_movement");
  const stop = rows.find((row) => row.clock === "speed");
  return (
    <section className="sheet answer-row" aria-label="Result">
      {run.kind === "stop" ? <StopAnswer name={name} row={stop} family={family} /> : null}
      {run.kind === "standing" && <TimeAnswer name={name} row={rollout} explained />}
      {run.kind === "standing" && first && (
        <div className="lesser">
          <TimeAnswer name={name} row={first} />
        </div>
      )}
      <Lesser
        label="Peak"
        value={fixed(run.peak_acceleration_g, 2)}
        unit="g"
        half={run.peak_acceleration_u95_g}
      />
      {run.slope_percent !== null && (
        <Lesser
          label="Slope, + uphill"
          value={fixed(run.slope_percent, 2)}
          unit="%"
          half={run.slope_u95_percent}
        />
      )}
    </section>
  );
}

function TimeAnswer(props: { name: string; row: Measured | undefined; explained?: boolean }) {
  const { name, row, explained = false } = props;
  if (!row) {
    return (
      <div>
        <div className="label">{name}</div>
        <div className="verdict">not reached</div>
      </div>
    );
  }
  const digits = digitsBeside(row.time_u95_s, 2);
  return (
    <div>
      <div className="label">
        {name}, {CLOCK_NAMES[row.clock]}
        {explained && <Term word="clock" />}
      </div>
      <div className="answer">
        {fixed(row.time_s, digits)} <small>s</small>{" "}
        <small className="u95">± {fixed(row.time_u95_s, digits)}</small>
        {explained && <Term word="±" />}
      </div>
    </div>
  );
}

function StopAnswer({ name, row, family }: { name: string; row: Measured | undefined; family: Family }) {
  const meters = row?.distance_m ?? row?.onset_distance_m;
  const half = row?.distance_m ? row.distance_u95_m : row?.onset_distance_u95_m;
  const unit = unitOf("distance", family);
  if (typeof meters !== "number") return <div className="verdict">{name} not reached</div>;
  return (
    <div>
      <div className="label">
        {name}, {row?.distance_m ? "through the nominal speed" : "from brake onset, corrected to nominal"}
      </div>
      <div className="answer">
        {fixed(shown(meters, "distance", family), 1)} <small>{unit.name}</small>{" "}
        <small className="u95">± {fixed(half ? half / unit.factor : null, 1)}</small>
      </div>
      <div className="label">
        from {withUnit(row?.initial_speed_mps, "speed", family)}, mean fully developed deceleration{" "}
        {withUnit(row?.mfdd_mps2, "acceleration", family)}
      </div>
    </div>
  );
}

function Lesser(props: { label: string; value: string; unit: string; half: number | null }) {
  return (
    <div className="lesser">
      <div className="label">{props.label}</div>
      <div className="answer">
        {props.value} <small>{props.unit}</small> <small className="u95">± {fixed(props.half, 2)}</small>
      </div>
    </div>
  );
}
