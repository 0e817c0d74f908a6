import { Link } from "react-router";

import type { Key } from "./keys";
import type { Strip } from "./queries";

interface Props {
  strip: Strip;
  press: (key: Omit<Key, "id" | "pressed_at">) => void;
  mayWrite: boolean;
}

/** What the plan wants next: which group, in which direction. */
export function NextUp({ strip, press, mayWrite }: Props) {
  const { next, recorder } = strip;
  if (recorder.day === null || recorder.day === undefined) {
    return (
      <section className="sheet" aria-label="Next">
        <p className="label">No test day chosen</p>
        <p className="verdict">{recorder.measure}</p>
        <p>
          Runs are kept for {recorder.setup_name}. <Link to="/record">Choose a day</Link> to be guided through
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
  const number = strip.runs_done + 1;
  return (
    <section className="sheet" aria-label="Next">
      <div className="label">
        {next
          ? `Next, run ${number} of ${strip.runs_done + strip.runs_open}`
          : "All scheduled runs are driven"}
      </div>
      <div className="verdict" data-testid="next">
        {next ? `${next.group_name}, ${next.direction === "back" ? "back ←" : "out →"}` : "Over"}
        {next?.lane ? `, ${next.lane} lane` : ""}
      </div>
      <div className="choices">
        {next && mayWrite && (
          <button type="button" onClick={() => press({ action: "skip" })}>
            <kbd>n</kbd> skip
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
