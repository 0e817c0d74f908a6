import { fixed, shown, unitOf, type Family } from "../../shared/units";
import { DataTable } from "../../shared/DataTable";
import { Measured } from "../../shared/Measured";
import type { Run } from "./queries";

export function SplitTable({ splits, family }: { splits: Run["splits"]; family: Family }) {
  const unit = unitOf("speed", family).name;
  return (
    <section className="sheet">
      <h2>Splits</h2>
      <DataTable
        rows={splits.filter((split) => split.unit === unit)}
        rowKey={(split) => split.speed}
        columns={[
          { title: unit, number: true, value: (split) => split.speed },
          {
            title: "rollout, s",
            number: true,
            value: (split) => <Measured value={split.rollout_s} u95={split.rollout_u95_s} digits={2} />,
          },
          {
            title: "first movement, s",
            number: true,
            value: (split) => (
              <Measured value={split.first_movement_s} u95={split.first_movement_u95_s} digits={2} />
            ),
          },
          {
            title: `from staged, ${unitOf("distance", family).name}`,
            number: true,
            value: (split) => fixed(shown(split.distance_m, "distance", family), 1),
          },
        ]}
      />
    </section>
  );
}
