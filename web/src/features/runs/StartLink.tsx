import { Link } from "react-router";

import { toTheSecond } from "../../shared/measures";

/** When a run began, to the second, as the way to its sheet. */
export function StartLink({ run }: { run: { id: number; start_utc: string } }) {
  return <Link to={`/runs/${run.id}`}>{toTheSecond(run.start_utc)}</Link>;
}
