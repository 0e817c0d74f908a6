import { Button } from "antd";
import { useState } from "react";

import { DataTable } from "../../shared/DataTable";
import { When } from "../../shared/When";
import { usePreferences } from "../../shared/preferences";
import { useRuns, type RunRow } from "../runs/queries";
import { stateColumns } from "../runs/stateColumns";
import { withRuns, type Ask, type AskedGroup } from "./ask";
import { quantityOf } from "./quantity";

/** A page of runs: each goes into a group by itself, or several that are picked together. */
export function CandidateRows({
  ids,
  values,
  ask,
  set,
}: {
  ids: readonly number[];
  values: ReadonlyMap<number, number | null>;
  ask: Ask;
  set: (groups: AskedGroup[]) => void;
}) {
  const { groups } = ask;
  const runs = useRuns({ ids: ids.join(",") as never, page_size: ids.length }, ids.length > 0);
  const [marked, setPicked] = useState<number[]>([]);
  // While another page or filter is on its way, what was here before is neither shown nor picked.
  const picked = marked.filter((id) => ids.includes(id));
  const { family } = usePreferences();
  const quantity = quantityOf(ask.quantity, family);
  const options = [
    { value: -1, label: "neither", disabled: false },
    ...groups.map((group, value) => ({
      value,
      label: group.name,
      disabled: (group.typed_values?.length ?? 0) > 0,
    })),
  ];
  const groupOf = (id: number) => groups.findIndex((group) => group.runs?.includes(id));
  if (ids.length === 0) return <p>No run is left: take a filter away.</p>;
  const rows = (runs.data?.results ?? []).filter(({ id }) => ids.includes(id));
  return (
    <>
      {picked.length > 0 && (
        <div className="choice" role="status">
          <span>{picked.length} picked</span>
          {options.slice(1).map(({ value, label, disabled }) => (
            <Button
              key={value}
              disabled={disabled}
              onClick={() => {
                set(withRuns(groups, picked, value));
                setPicked([]);
              }}
            >
              {`Put them into ${label}`}
            </Button>
          ))}
        </div>
      )}
      <DataTable
        rows={rows}
        rowKey={(run) => run.id}
        selection={{
          keys: picked,
          change: (keys) => setPicked(keys.map(Number)),
          nameOf: (run) => `Pick the run of ${run.start_local}`,
        }}
        columns={[
          {
            title: "Group",
            value: (run) => (
              <select
                aria-label={`Group of the run of ${run.start_local}`}
                value={groupOf(run.id)}
                onChange={({ target }) => {
                  const place = Number(target.value);
                  set(withRuns(groups, [run.id], place < 0 ? null : place));
                }}
              >
                {options.map(({ value, label, disabled }) => (
                  <option key={value} value={value} disabled={disabled}>
                    {label}
                  </option>
                ))}
              </select>
            ),
          },
          { title: "Start", value: (run) => <When of={run} seconds /> },
          {
            title: `${ask.measure}, ${quantity.unit}`,
            number: true,
            value: (run) => quantity.text(values.get(run.id) ?? null),
          },
          { title: "Car and setup", wrap: true, value: (run) => `${run.car_name}: ${run.setup_name}` },
          ...stateColumns(family),
          { title: "Direction", value: (run) => run.direction || "–" },
          { title: "Counts", wrap: true, value: counts },
        ]}
      />
    </>
  );
}

function counts(run: RunRow): string {
  if (run.validity === "void") return `void: ${run.void_reason}`;
  return run.counts ? "yes" : "not complete";
}
