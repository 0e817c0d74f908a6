import { usePreferences } from "../../shared/preferences";
import { inFamily } from "../../shared/measures";
import { DataTable } from "../../shared/DataTable";
import { Measured } from "../../shared/Measured";
import type { Details } from "./queries";

/** What the same runs say of other measures. */
export function OtherMeasures({ details }: { details: Details }) {
  const { family } = usePreferences();
  const rows = details.others.filter((row) => inFamily(row.measure, family));
  if (rows.length < 2) return null;
  return (
    <section className="sheet" aria-label="Other measures">
      <h2>Other measures of these runs</h2>
      <DataTable
        rows={rows}
        rowKey={(row) => row.measure}
        columns={[
          { title: "Measure", value: (row) => row.measure },
          {
            title: "difference, s",
            number: true,
            value: (row) => <Measured value={row.value} u95={(row.high95 - row.low95) / 2} digits={3} />,
          },
          {
            title: `p corrected for ${details.others.length}`,
            number: true,
            value: (row) => (row.p_adjusted < 0.001 ? "under 0.001" : row.p_adjusted.toFixed(3)),
          },
          { title: "Clear", value: (row) => (row.shown ? "yes" : "no") },
        ]}
      />
    </section>
  );
}
