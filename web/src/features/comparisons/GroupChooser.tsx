import { Button, Input, Select } from "antd";
import { useState } from "react";

import { useMeasure } from "../../shared/useMeasure";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { toTheSecond } from "../../shared/measures";
import { DataTable } from "../../shared/DataTable";
import { useRuns, type RunRow } from "../runs/queries";
import { groupMark } from "./groups";
import { groupOfRuns, MOST_GROUPS, nextName, size, withRuns, type Ask, type AskedGroup } from "./ask";
import { ChangeChoice } from "./ChangeChoice";
import { FilterChoice } from "./FilterChoice";
import { TypedGroup } from "./TypedGroup";
import { stateColumns } from "../runs/stateColumns";

interface Props {
  ask: Ask;
  change: (changes: Partial<Ask>) => void;
}

/** Groups by a change, by any filter, run by run, or typed from elsewhere. */
export function GroupChooser({ ask, change }: Props) {
  const { car } = usePreferences();
  const stop = useMeasure(ask.measure)?.basis === "stop";
  const runs = useRuns({
    ...(car === null ? {} : { car }),
    ...(stop ? { kind: "stop" as const } : {}),
    page_size: 500,
  });
  const [shown, setShown] = useState<number[] | null>(null);
  if (runs.isPending) return <Loading what="the runs" />;
  if (runs.error) return <Failed error={runs.error} retry={() => void runs.refetch()} />;
  const rows = runs.data.results.filter((run) => stop || run.kind !== "stop");
  if (!rows.length) {
    return (
      <Nothing title="No runs here">
        <p>Import logs on the Runs page, or choose another car above.</p>
      </Nothing>
    );
  }
  const groups = ask.groups;
  const set = (next: AskedGroup[]) => change({ groups: next });
  return (
    <section className="sheet no-print" aria-label="Choose groups">
      <h2>Choose groups</h2>
      <ChangeChoice rows={rows} choose={set} />
      <GroupsBar groups={groups} set={set} clock={ask.clock} />
      <FilterChoice rows={rows} groups={groups} set={set} show={setShown} />
      <RunRows rows={shown ? rows.filter((run) => shown.includes(run.id)) : rows} groups={groups} set={set} />
    </section>
  );
}

function GroupsBar({
  groups,
  set,
  clock,
}: {
  groups: AskedGroup[];
  set: (groups: AskedGroup[]) => void;
  clock: Ask["clock"];
}) {
  const rename = (place: number, name: string) =>
    set(groups.map((group, each) => (each === place ? { ...group, name } : group)));
  return (
    <div className="groups-bar">
      {groups.map((group, place) => (
        <span key={place} className="group-box">
          <span className={groupMark(place)} />
          <Input
            size="small"
            aria-label={`Name of group ${place + 1}`}
            value={group.name}
            maxLength={40}
            className="short"
            onChange={(event) => rename(place, event.target.value)}
          />
          <span className="quiet">
            {size(group)} {group.typed_values?.length ? "typed" : "runs"}
          </span>
          {(place > 1 || size(group) > 0) && (
            <Button
              size="small"
              type="text"
              aria-label={`Empty ${group.name}`}
              onClick={() =>
                set(
                  place > 1
                    ? groups.filter((_, each) => each !== place)
                    : groups.map((each, at) => (at === place ? groupOfRuns(each.name) : each)),
                )
              }
            >
              {place > 1 ? "remove" : "empty"}
            </Button>
          )}
        </span>
      ))}
      {groups.length < MOST_GROUPS && (
        <Button size="small" onClick={() => set([...groups, groupOfRuns(nextName(groups))])}>
          Add a group
        </Button>
      )}
      <TypedGroup groups={groups} set={set} clock={clock} />
    </div>
  );
}

function RunRows({
  rows,
  groups,
  set,
}: {
  rows: readonly RunRow[];
  groups: AskedGroup[];
  set: (groups: AskedGroup[]) => void;
}) {
  const { family } = usePreferences();
  const options = [
    { value: -1, label: "neither" },
    ...groups.map((group, value) => ({
      value,
      label: group.name,
      disabled: (group.typed_values?.length ?? 0) > 0,
    })),
  ];
  const groupOf = (id: number) => groups.findIndex((group) => group.runs?.includes(id));
  return (
    <DataTable
      rows={rows}
      rowKey={(run) => run.id}
      columns={[
        {
          title: "Group",
          value: (run) => (
            <Select
              size="small"
              className="short"
              aria-label={`Group of the run of ${toTheSecond(run.start_utc)}`}
              value={groupOf(run.id)}
              options={options}
              onChange={(place) => set(withRuns(groups, [run.id], place < 0 ? null : place))}
            />
          ),
        },
        { title: "Start, UTC", value: (run) => toTheSecond(run.start_utc) },
        { title: "Car and setup", wrap: true, value: (run) => `${run.car_name}: ${run.setup_name}` },
        ...stateColumns(family),
        { title: "Direction", value: (run) => run.direction || "–" },
        { title: "Counts", wrap: true, value: counts },
      ]}
    />
  );
}

function counts(run: RunRow): string {
  if (run.validity === "void") return `void: ${run.void_reason}`;
  return run.counts ? "yes" : "not complete";
}
