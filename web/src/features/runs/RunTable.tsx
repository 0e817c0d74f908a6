import { Button, Checkbox, Popover, Table, type TableColumnType } from "antd";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
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

const WRAPPED = ["car", "setup_name"];

export function RunTable({ page, query, change, shownColumns, picked, setPicked }: Props) {
  const columns = shownColumns.map((column): TableColumnType<RunRow> => {
    const reversed = query.sort === `-${column.sort}`;
    return {
      key: column.key,
      title: column.title,
      className: WRAPPED.includes(column.key) ? undefined : "one-line-cell",
      align: column.numeric ? "right" : "left",
      sorter: column.sort !== undefined,
      sortOrder: reversed ? "descend" : query.sort && query.sort === column.sort ? "ascend" : null,
      filters: column.filters?.map((value) => ({ text: value, value })),
      filterMultiple: false,
      filteredValue: column.filters ? chosen(query[column.key as keyof RunQuery]) : null,
      render: (_, run) =>
        column.key === "start" ? <Link to={`/runs/${run.id}`}>{column.cell(run)}</Link> : column.cell(run),
    };
  });
  return (
    <div className="scroll one-line">
      <Table<RunRow>
        size="small"
        rowKey="id"
        columns={columns}
        dataSource={[...page.results]}
        rowSelection={{
          selectedRowKeys: picked,
          onChange: (keys) => setPicked(keys.map(Number)),
          getCheckboxProps: (run) => ({ "aria-label": `Pick the run of ${run.start_local}` }) as object,
        }}
        pagination={{
          total: page.count,
          pageSize: 50,
          current: Number(query.page ?? 1),
          showSizeChanger: false,
        }}
        onChange={(pages, filters, sorter) => {
          const one = Array.isArray(sorter) ? sorter[0] : sorter;
          const sort = shownColumns.find((column) => column.key === one?.columnKey)?.sort;
          change({
            sort: one?.order && sort ? (one.order === "descend" ? `-${sort}` : sort) : null,
            page: pages.current && pages.current > 1 ? String(pages.current) : null,
            ...Object.fromEntries(
              shownColumns
                .filter((column) => column.filters)
                .map((column) => [column.key, filters[column.key]?.[0]?.toString() ?? null]),
            ),
          });
        }}
      />
    </div>
  );
}

function chosen(value: unknown): string[] | null {
  return typeof value === "string" ? [value] : null;
}
