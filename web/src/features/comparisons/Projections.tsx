import { Term } from "../../shared/Term";
import { When } from "../../shared/When";
import { DataTable } from "../../shared/DataTable";
import { Measured } from "../../shared/Measured";
import type { Details, Result } from "./queries";

/** What the groups would do at another charge, by the car's own sweep; marked as what nobody drove. */
export function Projections({ details, result }: { details: Details; result: Result }) {
  const projected = details.projections.filter((row) => row.value !== null);
  const unreached = details.unreached.filter((row) => row.value !== null);
  if (!projected.length && !unreached.length) return null;
  return (
    <section className="sheet" aria-label="Projections">
      <h2>
        Projections
        <Term word="projection" />
      </h2>
      {projected.length > 0 && (
        <>
          <DataTable
            rows={projected}
            rowKey={(row) => `${row.group} ${row.charge_percent}`}
            columns={[
              { title: "Group", value: (row) => result.groups[row.group]?.name },
              { title: "at charge", number: true, value: (row) => `${row.charge_percent} %` },
              {
                title: `${result.measure}, s`,
                number: true,
                value: (row) => <Measured value={row.value} u95={row.u95} digits={3} />,
              },
            ]}
          />
          <p className="label">{projected[0]?.sentence}</p>
        </>
      )}
      {unreached.map((row) => (
        <p key={row.run}>
          The pull of <When of={row} seconds />, lifted before:{" "}
          <Measured value={row.value} u95={row.u95} digits={2} /> s, {row.sentence}.
        </p>
      ))}
    </section>
  );
}
