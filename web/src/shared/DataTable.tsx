import { Table } from "antd";
import { useEffect, useRef, type Key, type ReactNode } from "react";

export interface Column<Row> {
  title?: ReactNode;
  value: (row: Row, place: number) => ReactNode;
  /** Numbers stand on the right. */
  number?: boolean;
  /** Long text may break into lines. */
  wrap?: boolean;
}

interface Props<Row> {
  rows: readonly Row[];
  columns: (Column<Row> | false)[];
  rowKey: (row: Row) => Key;
  label?: string;
  /** How a row stands out. */
  rowClass?: (row: Row, place: number) => string;
  /** Rows that are picked, several at once with shift. */
  selection?: { keys: readonly Key[]; change: (keys: Key[]) => void; nameOf: (row: Row) => string };
}

/** Rows of data as every page shows them: dense, ruled, numbers aligned; without headings where no column has a title. */
export function DataTable<Row extends object>({
  rows,
  columns,
  rowKey,
  label,
  rowClass,
  selection,
}: Props<Row>) {
  const shown = columns.filter((column) => column !== false);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // What is wider than its sheet is scrolled by keyboard too.
    const scroller = box.current?.querySelector<HTMLElement>(".ant-table-content");
    if (scroller && scroller.scrollWidth > scroller.clientWidth) scroller.tabIndex = 0;
  });
  return (
    <div ref={box} className="data">
      <Table<Row>
        size="small"
        aria-label={label}
        pagination={false}
        scroll={{ x: true }}
        rowKey={rowKey}
        rowClassName={rowClass}
        rowSelection={
          selection && {
            hideSelectAll: true, // antd repeats a heading's checkbox where nobody sees it, but keys reach it
            selectedRowKeys: [...selection.keys],
            onChange: (keys) => selection.change(keys),
            getCheckboxProps: (row) => ({ "aria-label": selection.nameOf(row) }) as object,
          }
        }
        showHeader={shown.some((column) => column.title)}
        dataSource={[...rows]}
        columns={shown.map(({ title, value, number, wrap }, place) => ({
          key: place,
          title,
          align: number ? ("right" as const) : ("left" as const),
          className: wrap ? "as-text" : "one-line-cell",
          render: (_: unknown, row: Row, index: number) => value(row, index),
        }))}
      />
    </div>
  );
}
