import { Button, Input, Pagination, Select } from "antd";
import { useState } from "react";

import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { toTheSecond } from "../../shared/measures";
import { DataTable } from "../../shared/DataTable";
import { useRuns, type RunRow } from "../runs/queries";
import { groupMark } from "./groups";
import {
  groupOfRuns,
  MOST_GROUPS,
  MOST_RUNS,
  nextName,
  size,
  twoGroups,
  withRuns,
  type Ask,
  type AskedGroup,
} from "./ask";
import { ChangeChoice } from "./ChangeChoice";
import { FilterChoice } from "./FilterChoice";
import { quantityOf } from "./quantity";
import { useCandidates, useChange, type CandidateFilter } from "./queries";
import { StripPlot } from "./StripPlot";
import { TypedGroup } from "./TypedGroup";
import { stateColumns } from "../runs/stateColumns";

const PAGE = 50;

interface Props {
  ask: Ask;
  change: (changes: Partial<Ask>) => void;
}

/** Groups by a change, by any filter, run by run, or typed from elsewhere; the server looks through all runs. */
export function GroupChooser({ ask, change }: Props) {
  const { car } = usePreferences();
  const [filter, setFilter] = useState<CandidateFilter>({});
  const [page, setPage] = useState(1);
  const asked = {
    measure: ask.measure,
    clock: ask.clock,
    quantity: ask.quantity,
    ...(car === null ? {} : { car }),
  };
  const found = useCandidates({ ...asked, ...filter });
  const byChange = useChange((before, after) =>
    change({ groups: twoGroups(before.slice(0, MOST_RUNS), after.slice(0, MOST_RUNS)) }),
  );
  if (found.isPending) return <Loading what="the runs" />;
  if (found.error) return <Failed error={found.error} retry={() => void found.refetch()} />;
  if (found.data.of === 0) {
    return (
      <Nothing title="No runs here">
        <p>Import logs on the Runs page, or choose another car above.</p>
      </Nothing>
    );
  }
  const groups = ask.groups;
  const set = (next: AskedGroup[]) => change({ groups: next });
  const { ids } = found.data;
  return (
    <section className="sheet no-print" aria-label="Choose groups">
      <h2>Choose groups</h2>
      <ChangeChoice
        offers={found.data.offers.setup}
        choose={(before, after) => byChange.mutate({ query: asked, setups: [before, after] })}
      />
      <GroupsBar groups={groups} set={set} clock={ask.clock} />
      <FilterChoice
        found={found.data}
        filter={filter}
        change={(changes) => {
          setPage(1);
          setFilter({ ...filter, ...changes });
        }}
        groups={groups}
        set={set}
      />
      <StripPlot drawn={found.data.drawn} ask={ask} />
      <RunRows
        key={page}
        ids={ids.slice((page - 1) * PAGE, page * PAGE)}
        values={new Map(found.data.drawn.map(({ id, value }) => [id, value]))}
        ask={ask}
        set={set}
      />
      <Pagination
        className="above"
        hideOnSinglePage
        showSizeChanger={false}
        current={page}
        pageSize={PAGE}
        total={ids.length}
        onChange={setPage}
      />
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

/** A page of runs: each goes into a group by itself, or several that are picked together. */
function RunRows({
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
  const runs = useRuns({ ids: ids.join(",") as never, page_size: PAGE }, ids.length > 0);
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
          nameOf: (run) => `Pick the run of ${toTheSecond(run.start_utc)}`,
        }}
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
