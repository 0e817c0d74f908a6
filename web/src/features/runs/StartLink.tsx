import { Link } from "react-router";

import { When } from "../../shared/When";

/** When a run began, to the second, as the way to its sheet. */
export function StartLink({ run }: { run: { id: number; start_utc: string; start_local: string } }) {
  return (
    <Link to={`/runs/${run.id}`}>
      <When of={run} seconds />
    </Link>
  );
}
