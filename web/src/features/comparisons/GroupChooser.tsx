import { Button, Input, Pagination } from "antd";
import { useState } from "react";

import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { groupMark } from "./groups";
import {
  groupOfRuns,
  MOST_GROUPS,
  MOST_RUNS,
  nextName,
  size,
  twoGroups,
  type Ask,
  type AskedGroup,
} from "./ask";
import { CandidateRows } from "./CandidateRows";
import { ChangeChoice } from "./ChangeChoice";
import { FilterChoice } from "./FilterChoice";
import { useCandidates, useChange, type CandidateFilter } from "./queries";
import { StripPlot } from "./StripPlot";
import { TypedGroup } from "./TypedGroup";

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
      <CandidateRows
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
