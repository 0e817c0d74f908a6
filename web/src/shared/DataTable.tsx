import { useEffect, useRef, useState, type Key, type MouseEvent, type ReactNode } from "react";

import { usePrinted } from "./usePrinted";

const FIRST = 30; // rows of a long table that are drawn before the rest is asked for

export interface Column<Row> {
  title?: ReactNode;
  value: (row: Row, place: number) => ReactNode;
  /** Numbers stand on the right. */
  number?: boolean;
  /** Long text may break into lines. */
  wrap?: boolean;
  /** What rows are sorted by where its heading is pressed. */
  sort?: string;
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
  /** What it is sorted by, reversed with a `-` before it. */
  sorting?: { by: string | undefined; change: (by: string | null) => void };
  /** The headings stay in sight while the rows move. */
  tall?: boolean;
  /** The first column stays in sight too. */
  wide?: boolean;
}

/**
 * Rows of data as every page shows them: dense, ruled, numbers aligned; without headings where no column has a title.
 * The browser's own table, since a page of fifty runs has hundreds of cells.
 */
export function DataTable<Row extends object>(props: Props<Row>) {
  const [all, setAll] = useState(false);
  const printed = usePrinted();
  const { length } = props.rows;
  if (all || printed || length <= 2 * FIRST) return <WholeTable {...props} />;
  return (
    <>
      <WholeTable {...props} rows={props.rows.slice(0, FIRST)} />
      <button type="button" className="as-link no-print" onClick={() => setAll(true)}>
        {`Show all ${length} (the first ${FIRST} are here)`}
      </button>
    </>
  );
}

function WholeTable<Row extends object>(props: Props<Row>) {
  const { rows, columns, rowKey, label, rowClass, selection, sorting, tall, wide } = props;
  const shown = columns.filter((column) => column !== false);
  const box = useRef<HTMLDivElement>(null);
  const last = useRef<number | null>(null);
  useEffect(() => {
    const scroller = box.current;
    if (!scroller) return;
    // What is wider than its sheet is scrolled by keyboard too. Asked after the browser has laid it out: asked before,
    // it would lay out the page once for each table.
    const watch = new ResizeObserver(() => {
      if (scroller.scrollWidth > scroller.clientWidth) scroller.tabIndex = 0;
      else scroller.removeAttribute("tabindex");
    });
    watch.observe(scroller);
    if (scroller.firstElementChild) watch.observe(scroller.firstElementChild);
    return () => watch.disconnect();
  }, []);
  function pick(place: number, event: MouseEvent<HTMLInputElement>) {
    if (!selection) return;
    const from = event.shiftKey && last.current !== null ? last.current : place;
    const span = rows.slice(Math.min(from, place), Math.max(from, place) + 1).map(rowKey);
    last.current = place;
    const others = selection.keys.filter((key) => !span.includes(key));
    selection.change(event.currentTarget.checked ? [...others, ...span] : others);
  }
  return (
    <div ref={box} className={`data${tall ? " tall" : ""}${wide ? " wide" : ""}`}>
      <table aria-label={label}>
        {shown.some((column) => column.title) && (
          <thead>
            <tr>
              {selection && <th aria-label="Picked" />}
              {shown.map((column, place) => (
                <Heading key={place} column={column} sorting={sorting} />
              ))}
            </tr>
          </thead>
        )}
        <tbody>
          {rows.map((row, place) => (
            <tr key={rowKey(row)} className={rowClass?.(row, place) || undefined}>
              {selection && (
                <td className="pick-cell">
                  <input
                    type="checkbox"
                    aria-label={selection.nameOf(row)}
                    checked={selection.keys.includes(rowKey(row))}
                    onChange={() => undefined}
                    onClick={(event) => pick(place, event)}
                  />
                </td>
              )}
              {shown.map(({ value, number, wrap }, column) => (
                <td key={column} className={classOf(number, wrap)}>
                  {value(row, place)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function classOf(number?: boolean, wrap?: boolean): string {
  return `${wrap ? "as-text" : "one-line-cell"}${number ? " number" : ""}`;
}

/** Sorted one way, the other, and not at all, press by press. */
function Heading<Row>({ column, sorting }: { column: Column<Row>; sorting: Props<Row>["sorting"] }) {
  const { title, number, sort } = column;
  if (!sort || !sorting) return <th className={number ? "number" : undefined}>{title}</th>;
  const up = sorting.by === sort;
  const down = sorting.by === `-${sort}`;
  return (
    <th className={number ? "number" : undefined} aria-sort={up ? "ascending" : down ? "descending" : "none"}>
      <button type="button" onClick={() => sorting.change(up ? `-${sort}` : down ? null : sort)}>
        {title}
        <span aria-hidden="true" className={up || down ? "sorted" : "sortable"}>
          {down ? "▼" : "▲"}
        </span>
      </button>
    </th>
  );
}
