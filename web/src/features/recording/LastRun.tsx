import { Link } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf } from "../../shared/units";
import { CLOCK_NAMES, headline } from "../../shared/measures";
import { useMeasure } from "../../shared/useMeasure";
import type { Run } from "../runs/queries";
import type { Key } from "./keys";
import type { Strip } from "./queries";

interface Props {
  strip: Strip;
  measure: string;
  waiting: Key[];
  press: (key: Omit<Key, "id" | "pressed_at">) => void;
  mayWrite: boolean;
}

/** The last run on both clocks with its flags, the stop after it, and what to press. */
export function LastRun({ strip, measure, waiting, press, mayWrite }: Props) {
  const { last_run: pull, last_stop: stop } = strip;
  const stops = useMeasure(measure)?.basis === "stop";
  const run = stops ? (stop ?? pull) : (pull ?? stop);
  if (!run) {
    return (
      <section className="sheet" aria-label="Last run">
        <p className="quiet">No run yet. It appears here two seconds after it ends.</p>
      </section>
    );
  }
  const after = pull && stop && run === pull && stop.start_utc > pull.start_utc ? stop : null;
  return (
    <section className="sheet" aria-label="Last run">
      <div className="answer-row">
        <Times run={run} measure={measure} />
        {after && <StopShort run={after} />}
      </div>
      <Decided run={run} waiting={waiting} />
      {run.flags.map((flag) => (
        <p key={flag.code} className={`flag ${flag.severity}`}>
          {flag.message}
        </p>
      ))}
      {mayWrite && <Choices strip={strip} run={run} press={press} />}
      <p className="flush">
        <Link to={`/runs/${run.id}`}>Run sheet</Link>
      </p>
    </section>
  );
}

function Times({ run, measure }: { run: Run; measure: string }) {
  const rows = run.measured.filter((row) => row.name === measure);
  if (run.kind === "stop") return <StopShort run={run} large />;
  if (!rows.length) {
    return (
      <div>
        <div className="label">{measure}</div>
        <div className="verdict">not reached</div>
      </div>
    );
  }
  const order = ["rollout", "first_movement", "speed"];
  return rows
    .sort((a, b) => order.indexOf(a.clock) - order.indexOf(b.clock))
    .map((row, place) => (
      <div key={row.clock} className={place ? "lesser" : undefined}>
        <div className="label">
          {row.name}, {CLOCK_NAMES[row.clock]}
        </div>
        <div className="answer" data-testid={`result-${row.clock}`}>
          {fixed(row.time_s, 2)} <small>s</small> <small className="u95">± {fixed(row.time_u95_s, 2)}</small>
        </div>
      </div>
    ));
}

function StopShort({ run, large = false }: { run: Run; large?: boolean }) {
  const { family } = usePreferences();
  const name = headline("stop", family);
  const row = run.measured.find((each) => each.name === name);
  const meters = row?.onset_distance_m ?? row?.distance_m;
  const half = row?.onset_distance_m ? row.onset_distance_u95_m : row?.distance_u95_m;
  const unit = unitOf("distance", family);
  return (
    <div className={large ? undefined : "lesser"}>
      <div className="label">Stop, {row ? `${name} from brake onset` : "slower than any measure"}</div>
      <div className="answer" data-testid="stop-result">
        {row ? fixed(shown(meters ?? 0, "distance", family), 1) : "–"} <small>{unit.name}</small>{" "}
        <small className="u95">± {fixed(half ? half / unit.factor : null, 1)}</small>
      </div>
    </div>
  );
}

function Decided({ run, waiting }: { run: Run; waiting: Key[] }) {
  const queued = waiting.filter((key) => key.run === run.id).at(-1);
  const said = run.validity === "void" ? `Void: ${run.void_reason}` : run.decided ? "Kept" : "Undecided";
  return (
    <p className="flush above">
      <strong data-testid="decision">
        {queued
          ? `${queued.action === "void" ? `Void: ${queued.reason}` : queued.action}, waiting for the server`
          : said}
      </strong>
    </p>
  );
}

function Choices({ strip, run, press }: { strip: Strip; run: Run; press: Props["press"] }) {
  return (
    <div className="choices" role="group" aria-label="Decide">
      <button type="button" onClick={() => press({ action: "keep", run: run.id, revision: run.revision })}>
        <kbd>k</kbd> keep
      </button>
      <span className="label">void, because:</span>
      {strip.reasons.map((reason, place) => (
        <button
          key={reason}
          type="button"
          onClick={() => press({ action: "void", run: run.id, revision: run.revision, reason })}
        >
          <kbd>{place + 1}</kbd> {reason}
        </button>
      ))}
    </div>
  );
}
