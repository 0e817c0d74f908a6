import { Link } from "react-router";

import type { Key } from "./keys";
import type { Strip } from "./queries";

interface Props {
  strip: Strip;
  press: (key: Omit<Key, "id" | "pressed_at">) => void;
  mayWrite: boolean;
}

/** What the plan wants next: which arm, in which direction. */
export function NextUp({ strip, press, mayWrite }: Props) {
  const { next, recorder } = strip;
  if (recorder.day === null || recorder.day === undefined) {
    return (
      <section className="sheet" aria-label="Next">
        <p className="label">No day is chosen</p>
        <p className="verdict">{recorder.measure}</p>
        <p>
          Runs are kept for {recorder.set_up_name}. <Link to="/record">Choose a day</Link> to be led through
          its order.
        </p>
        {mayWrite && (
          <div className="choices">
            <Undo strip={strip} press={press} />
          </div>
        )}
      </section>
    );
  }
  const number = strip.steps_done + 1;
  return (
    <section className="sheet" aria-label="Next">
      <div className="label">
        {next ? `Next, run ${number} of ${strip.steps_done + strip.steps_open}` : "The day’s runs are driven"}
      </div>
      <div className="verdict" data-testid="next">
        {next ? `${next.arm_name}, ${next.direction === "back" ? "back ←" : "out →"}` : "Over"}
        {next?.lane ? `, ${next.lane} lane` : ""}
      </div>
      <div className="choices">
        {next && mayWrite && (
          <button type="button" onClick={() => press({ action: "skip" })}>
            <kbd>n</kbd> skip it
          </button>
        )}
        {mayWrite && <Undo strip={strip} press={press} />}
        <Link to={`/days/${recorder.day}`}>The day</Link>
      </div>
    </section>
  );
}

/** Takes the last key back. */
function Undo({ strip, press }: Pick<Props, "strip" | "press">) {
  if (!strip.undoable) return null;
  return (
    <button type="button" onClick={() => press({ action: "undo" })}>
      <kbd>z</kbd> undo: {strip.undoable.action}
    </button>
  );
}
