import { Alert } from "antd";

import { AskDay } from "./AskDay";
import { useDateLog } from "./logs";
import type { Run } from "./queries";

/** A run of a log without a date: it counts nowhere until its day is given. */
export function Undated({ run }: { run: Run }) {
  const date = useDateLog(run.log);
  if (run.date_known) return null;
  return (
    <section className="sheet" aria-label="No date">
      <p className="flag caution">
        <strong>No date:</strong> the log has no date, so comparisons exclude this run. Which day was it
        driven?
      </p>
      <AskDay done={(dating) => date.mutate(dating)} busy={date.isPending} />
      {date.error && <Alert type="error" title={date.error.message} />}
    </section>
  );
}
