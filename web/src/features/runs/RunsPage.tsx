import { useState } from "react";
import { Link, useSearchParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { useSession } from "../accounts/session";
import { ArmsTray } from "./ArmsTray";
import { ImportButton, ImportPanel } from "./ImportPanel";
import { useRuns, type RunQuery } from "./queries";
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
  return [car === null || query.set_up ? query : { ...query, car }, change];
}

export function RunsPage() {
  useTitle("Runs");
  const [query, change] = useRunQuery();
  const runs = useRuns(query);
  const columns = useColumns();
  const { person } = useSession();
  const [importing, setImporting] = useState<boolean | null>(null);
  const [picked, setPicked] = useState<number[]>([]);
  const filtered = Object.keys(query).some((name) => name !== "car" && name !== "sort" && name !== "page");
  const empty = runs.data?.count === 0 && !filtered;
  const open = importing ?? (empty && person?.may_write === true);
  return (
    <>
      <div className="page-head">
        <h1>Runs</h1>
        {runs.data && <span className="quiet">{runs.data.count} in this list</span>}
        <span className="push" style={{ display: "flex", gap: 12, alignItems: "baseline" }}>
          {person?.may_write && !empty && <Link to="/runs/fill">Fill in what is missing</Link>}
          <ColumnChoice columns={columns} />
          {person?.may_write && <ImportButton open={open} toggle={() => setImporting(!open)} />}
        </span>
      </div>
      {open && <ImportPanel onStart={() => setImporting(true)} />}
      {runs.isPending && <Loading what="the runs" />}
      {runs.error && <Failed error={runs.error} retry={() => void runs.refetch()} />}
      {empty && (
        <Nothing title="No runs yet">
          <p>Import a receiver log: Coombe finds the standing starts and stops in it and times them.</p>
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
      <ArmsTray picked={picked} clear={() => setPicked([])} />
    </>
  );
}
