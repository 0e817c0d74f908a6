import { Button, Checkbox, Pagination, Popover } from "antd";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { DataTable } from "../../shared/DataTable";
import { usePreferences, useStored } from "../../shared/preferences";
import { columnsFor, type Column } from "./columns";
import type { RunQuery, RunRow } from "./queries";

const HIDDEN_AT_FIRST = ["outside", "slope", "peak", "log", "drive_mode", "direction"];

/** Which columns this person wants; remembered by the browser. */
export function useColumns() {
  const [hidden, setHidden] = useStored<string[]>("run-columns-hidden", HIDDEN_AT_FIRST);
  const { family } = usePreferences();
  const all = columnsFor(family);
  return { all, hidden, setHidden, shown: all.filter((column) => !hidden.includes(column.key)) };
}

export function ColumnChoice({ columns }: { columns: ReturnType<typeof useColumns> }) {
  const { all, hidden, setHidden } = columns;
  const list = (
    <div className="stack">
      {all.map((column) => (
        <Checkbox
          key={column.key}
          checked={!hidden.includes(column.key)}
          onChange={(event) =>
            setHidden(
              event.target.checked ? hidden.filter((key) => key !== column.key) : [...hidden, column.key],
            )
          }
        >
          {column.title}
        </Checkbox>
      ))}
    </div>
  );
  return (
    <Popover content={list} trigger="click" placement="bottomRight">
      <Button>Columns</Button>
    </Popover>
  );
}

interface Props {
  page: Schemas["PaginatedRunRowList"];
  query: RunQuery;
  change: (changes: Record<string, string | null>) => void;
  shownColumns: Column[];
  picked: number[];
  setPicked: (ids: number[]) => void;
}

const WRAPPED = ["car", "setup_name", "validity"];
const PAGE = 50;

/** A page of runs; its order is in the address, and what it is narrowed to. */
export function RunTable({ page, query, change, shownColumns, picked, setPicked }: Props) {
  const columns = shownColumns.map(({ key, title, sort, numeric, cell }) => ({
    title,
    sort,
    number: numeric,
    wrap: WRAPPED.includes(key),
    value: (run: RunRow) => (key === "start" ? <Link to={`/runs/${run.id}`}>{cell(run)}</Link> : cell(run)),
  }));
  return (
    <>
      <DataTable
        tall
        label="Runs"
        rows={page.results}
        rowKey={(run) => run.id}
        columns={columns}
        sorting={{ by: query.sort, change: (by) => change({ sort: by, page: null }) }}
        selection={{
          keys: picked,
          change: (keys) => setPicked(keys.map(Number)),
          nameOf: (run) => `Pick the run of ${run.start_local}`,
        }}
      />
      {page.count > PAGE && (
        <Pagination
          className="below-data"
          align="end"
          total={page.count}
          pageSize={PAGE}
          current={Number(query.page ?? 1)}
          showSizeChanger={false}
          onChange={(at) => change({ page: at > 1 ? String(at) : null })}
        />
      )}
    </>
  );
}
