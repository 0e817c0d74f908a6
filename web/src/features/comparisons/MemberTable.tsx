import { Link } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { When } from "../../shared/When";
import { DataTable } from "../../shared/DataTable";
import { GroupName } from "./GroupName";
import type { Result } from "./queries";
import { useQuantity } from "./quantity";
import { stateColumns } from "../runs/stateColumns";

/** The runs behind the numbers; what dropped out says why. */
export function MemberTable({ result }: { result: Result }) {
  const quantity = useQuantity(result);
  const { family } = usePreferences();
  return (
    <section className="sheet">
      <h2>Runs</h2>
      <DataTable
        rows={result.runs}
        rowKey={(run) => run.id}
        columns={[
          {
            title: "Group",
            value: (run) => <GroupName place={run.group}>{result.groups[run.group]?.name}</GroupName>,
          },
          {
            title: "Run",
            value: (run) => (
              <Link to={`/runs/${run.id}`}>
                <When of={run} />
              </Link>
            ),
          },
          { title: "Setup", wrap: true, value: (run) => run.setup_name },
          { title: "Direction", value: (run) => run.direction || "–" },
          ...stateColumns(family),
          {
            title: `${result.measure}, ${quantity.unit}`,
            number: true,
            wrap: true,
            value: (run) =>
              run.dropped ? (
                <span className="quiet">{run.dropped}</span>
              ) : (
                <>
                  {quantity.text(run.value)} <span className="u95">± {quantity.text(run.u95)}</span>
                </>
              ),
          },
        ]}
      />
    </section>
  );
}
