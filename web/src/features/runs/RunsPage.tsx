import { Button } from "antd";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { useSession } from "../accounts/session";
import { EditRuns } from "./EditRuns";
import { useRunIds, useRuns, type RunQuery } from "./queries";
import { FilterButton, FilterChips } from "./RunFilters";
import { ColumnChoice, RunTable, useColumns } from "./RunTable";

/** The filters of the table live in the address, so that a link shows the same runs. */
function useRunQuery(): [RunQuery, (changes: Record<string, string | null>) => void] {
  const [search, setSearch] = useSearchParams();
  const { car } = usePreferences();
  const query = Object.fromEntries(search) as RunQuery;
  function change(changes: Record<string, string | null>) {
    const next = new URLSearchParams(search);
    if (!("page" in changes)) next.delete("page");
    for (const [name, value] of Object.entries(changes)) {
      if (value === null) next.delete(name);
      else next.set(name, value);
    }
    setSearch(next, { replace: true });
  }
  return [car === null || query.setup ? query : { ...query, car }, change];
}

/** The table of runs; `tray` takes what is picked in it further. */
export function RunsPage({
  tray,
}: {
  tray: (picked: number[], clear: () => void, edit: ReactNode) => ReactNode;
}) {
  useTitle("Runs");
  const navigate = useNavigate();
  const [query, change] = useRunQuery();
  const runs = useRuns(query);
  const columns = useColumns();
  const { person } = useSession();
  const all = useRunIds();
  const [picked, setPicked] = useState<number[]>([]);
  const clear = () => setPicked([]);
  const filtered = Object.keys(query).some((name) => name !== "car" && name !== "sort" && name !== "page");
  const empty = runs.data?.count === 0 && !filtered;
  return (
    <>
      <div className="page-head">
        <h1>Runs</h1>
        {runs.data && <span className="quiet">{runs.data.count} in this list</span>}
        <span className="push row">
          {!empty && <Link to="/logs">Logs</Link>}
          {!empty && (
            <a
              href={`/api/v1/runs/spreadsheet/?${new URLSearchParams(query as Record<string, string>).toString()}`}
              title="The runs of this list with all their measures"
            >
              Spreadsheet
            </a>
          )}
          {person?.may_write && !empty && <Link to="/runs/fill">Add missing conditions</Link>}
          {!empty && <FilterButton query={query} change={change} />}
          <ColumnChoice columns={columns} />
          {person?.may_write && (
            <Button type="primary" onClick={() => void navigate("/import")}>
              Import logs
            </Button>
          )}
        </span>
      </div>
      <FilterChips query={query} change={change} />
      {runs.isPending && <Loading what="the runs" />}
      {runs.error && <Failed error={runs.error} retry={() => void runs.refetch()} />}
      {empty && (
        <Nothing title="No runs yet">
          <p>
            <Link to="/import">Import a receiver log</Link>, or drop it anywhere. Coombe finds the standing
            starts, roll-ons and stops in it and times them.
          </p>
        </Nothing>
      )}
      {runs.data && !empty && (
        <RunTable
          page={runs.data}
          query={query}
          change={change}
          shownColumns={columns.shown}
          picked={picked}
          setPicked={setPicked}
        />
      )}
      {runs.data && picked.length === runs.data.results.length && picked.length < runs.data.count && (
        <p className="centered">
          <Button type="link" onClick={() => void all.mutateAsync(query).then(setPicked)}>
            Pick all {runs.data.count}
          </Button>
        </p>
      )}
      {tray(picked, clear, person?.may_write && <Edit picked={picked} done={clear} />)}
    </>
  );
}

/** One change of all that is picked, or each its own in a grid. */
function Edit({ picked, done }: { picked: number[]; done: () => void }) {
  const navigate = useNavigate();
  return (
    <>
      <EditRuns picked={picked} done={done} />
      {picked.length > 1 && (
        <Button onClick={() => void navigate(`/runs/grid?ids=${picked.join(",")}`)}>Edit in a grid</Button>
      )}
    </>
  );
}
