import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf } from "../../shared/units";
import type { Run } from "../runs/queries";
import { CLOCK_NAMES } from "../../shared/measures";
import { useLive, type Live, type LiveStore, type Word } from "./live";

interface Props {
  store: LiveStore;
  recording: boolean;
  last: Run | null;
  clock: string;
  /** What is measured, as the recorder is set. */
  measure: string;
}

/** The one word that fills the width, the speed, and the target live. Drawn with every fix. */
export function GlanceView({ store, recording, last, clock, measure }: Props) {
  const live = useLive(store);
  const { family } = usePreferences();
  const word = wordOf(live, recording);
  const glance = live.glance;
  const unit = unitOf("speed", family);
  const moving = recording && glance && word !== "no fix";
  const result = word === "done" ? timed(last, live, clock) : null;
  return (
    <section
      className={`glance ${word.replace(" ", "-")} ${result ? "timed" : ""}`}
      aria-label="Now"
      data-arrived={glance?.arrived_at}
      data-testid="glance"
    >
      <div className="word" style={{ "--letters": word.length } as React.CSSProperties} data-testid="word">
        {word}
      </div>
      <div className="numbers">
        {!result && (
          <div>
            <span className="label">Speed</span>
            <span className="large" data-testid="speed">
              {moving ? fixed(shown(glance.speed_mps, "speed", family), 0) : "–"} <small>{unit.name}</small>
            </span>
          </div>
        )}
        <Target measure={measure} live={live} moving={Boolean(moving)} result={result} />
      </div>
    </section>
  );
}

function wordOf(live: Live, recording: boolean): Word | "off" | "away" {
  if (!recording) return "off";
  if (!live.recorder || !live.glance) return "away";
  return live.glance.word;
}

type Measured = Run["measured"][number];

/** The final time once it is there; before that the clock, and the time by single fixes once the target is reached. */
function Target(props: { measure: string; live: Live; moving: boolean; result: Measured | null }) {
  const { measure, live, moving, result } = props;
  return (
    <div>
      <span className="label">
        {measure}
        {result ? `, ${CLOCK_NAMES[result.clock]}` : moving && ", live"}
      </span>
      <span className="large" data-testid="as-it-happens">
        {result ? fixed(result.time_s, 2) : moving ? asItHappens(live) : "–"} <small>s</small>
      </span>
    </div>
  );
}

function timed(run: Run | null, live: Live, clock: string): Measured | null {
  const rows = run?.measured.filter((row) => row.name === live.glance?.measure) ?? [];
  return rows.find((row) => row.clock === clock) ?? rows[0] ?? null;
}

function asItHappens({ glance }: Live): string {
  if (!glance) return "–";
  if (glance.reached_s !== null) return fixed(glance.reached_s, 1);
  return glance.since_s === null ? "–" : fixed(Math.max(glance.since_s, 0), 1);
}
