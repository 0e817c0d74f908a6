import { Alert, Button, Input, Popover, Select, Table } from "antd";
import type { ColumnType } from "antd/es/table";
import type { SorterResult } from "antd/es/table/interface";
import { useMemo, useState } from "react";
import { Link } from "react-router";

import { usePreferences, useStored } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { digitsFor, fixed, shown, unitOf, type Family } from "../../shared/units";
import { useMeasures } from "../../shared/useMeasure";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import {
  CLAIM,
  columnsOf,
  FACTS,
  factText,
  matching,
  measureColumn,
  sorted,
  USUAL_MEASURES,
  type CarColumn,
} from "./allCars";
import { AllCarsPlot } from "./AllCarsPlot";

import {
  useAllCars,
  useOwnMeasures,
  useSaveTableView,
  useTableViews,
  type AllCarsRow,
  type OwnMeasure,
} from "./queries";

const FIRST = [
  "drive_layout",
  "tires",
  "test_mass_kg",
  "0-60 mph|rollout",
  "1/4 mile|rollout",
  "60-0 mph|speed",
];
const HEIGHT = 620;
const [NAMED, WIDE, NARROW] = [170, 138, 112];
const MANY = 100; // rows that are drawn only where they are in sight
const NONE: OwnMeasure[] = [];

interface View {
  columns: string[];
  sort: string;
}

/** Every setup of every car ever tested, in one table; any two of its columns against each other. */
export function AllCarsPage() {
  useTitle("All cars");
  const { family } = usePreferences();
  const [view, setView] = useStored<View>("all-cars", { columns: FIRST, sort: "0-60 mph|rollout" });
  const [text, setText] = useState("");
  const own = useOwnMeasures().data ?? NONE;
  const asked = view.columns.filter((key) => key.includes("|") && !key.startsWith("own|"));
  const table = useAllCars(asked.length > 0 ? asked : USUAL_MEASURES);
  const columns = useMemo(() => columnsOf(view.columns, own), [view.columns, own]);
  const rows = useMemo(
    () => sorted(matching(table.data ?? [], text), view.sort, columns),
    [table.data, text, view.sort, columns],
  );
  if (table.error) return <Failed error={table.error} retry={() => void table.refetch()} />;
  if (!table.data) return <Loading what="all cars" />;
  if (table.data.length === 0)
    return (
      <Nothing title="No setups yet">
        <p>
          <Link to="/cars">Add a car</Link> with a setup, then import its logs.
        </p>
      </Nothing>
    );
  const alike = rows.some((row) => Object.values(row.values).some((value) => value.alike));
  return (
    <>
      <div className="page-head">
        <h1>All cars</h1>
        <span className="quiet">{`${rows.length} of ${table.data.length} setups`}</span>
        <span className="push row no-print">
          <Input.Search
            allowClear
            aria-label="Filter"
            className="filter-box"
            placeholder="car, setup, tires, body …"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <ColumnChoice
            chosen={view.columns}
            own={own}
            choose={(keys) => setView({ ...view, columns: keys })}
          />
        </span>
      </div>
      <Views view={view} show={setView} />
      {alike && (
        <Alert
          type="warning"
          className="below"
          title="Means marked = stand in several rows to the last digit. Were they copied?"
        />
      )}
      <section className="sheet">
        <Table<AllCarsRow>
          size="small"
          virtual={rows.length > MANY}
          aria-label="All cars"
          pagination={false}
          showSorterTooltip={false}
          onChange={(_, __, sorter) => setView({ ...view, sort: sortOf(sorter) })}
          rowKey="setup"
          scroll={{
            x: NAMED + columns.reduce((sum, { key }) => sum + (key.includes("|") ? WIDE : NARROW), 0),
            y: HEIGHT,
          }}
          dataSource={rows}
          columns={[named(), ...columns.map((column) => asColumn(column, view, family))]}
        />
        <p className="label">
          Mean ± half of its 95 % interval; under it the best, and of how many runs. Days and conditions
          differ from row to row: compare two of them under <Link to="/compare/new">Compare</Link>.
        </p>
      </section>
      <AllCarsPlot
        rows={rows}
        columns={[...columns, ...FACTS.filter((each) => each.number && !view.columns.includes(each.key))]}
      />
    </>
  );
}

function named(): ColumnType<AllCarsRow> {
  return {
    title: "Car and setup",
    width: NAMED,
    fixed: "left",
    render: (_, row) => (
      <>
        <Link to={`/cars/${row.car}`}>{row.car_name}</Link>
        <br />
        <span className="u95">{row.setup_name}</span>
      </>
    ),
  };
}

function asColumn(column: CarColumn, view: View, family: Family): ColumnType<AllCarsRow> {
  return {
    key: column.key,
    width: column.key.includes("|") ? WIDE : NARROW,
    align: column.number ? "right" : "left",
    title: column.title(family),
    // The rows are sorted already: what has no value stands last either way.
    sorter: () => 0,
    sortOrder:
      view.sort.replace(/^-/, "") === column.key ? (view.sort.startsWith("-") ? "descend" : "ascend") : null,
    render: (_, row) =>
      column.key.includes("|") ? <Value row={row} column={column} /> : factText(row, column, family),
  };
}

/** The order that a click on a heading asks for. */
function sortOf(asked: SorterResult<AllCarsRow> | SorterResult<AllCarsRow>[]): string {
  const { columnKey, order } = Array.isArray(asked) ? (asked[0] ?? {}) : asked;
  return order ? `${order === "descend" ? "-" : ""}${String(columnKey)}` : "";
}

function Value({ row, column }: { row: AllCarsRow; column: CarColumn }) {
  const { family } = usePreferences();
  const value = row.values[column.key];
  if (!value) return <>–</>;
  const half = value.u95 === null ? null : value.u95 / unitOf(column.kind, family).factor;
  const digits = digitsFor(half, 2);
  const write = (si: number) => fixed(shown(si, column.kind, family), digits);
  return (
    <>
      {value.alike && "= "}
      {write(value.mean)}
      {half !== null && <span className="u95"> ± {fixed(half, digits)}</span>}
      <br />
      <span className="u95">
        best {write(value.best)} of {value.n}
      </span>
    </>
  );
}

function ColumnChoice(props: {
  chosen: string[];
  own: readonly OwnMeasure[];
  choose: (keys: string[]) => void;
}) {
  const { chosen, own, choose } = props;
  const { family } = usePreferences();
  const measures = useMeasures() ?? [];
  const options = [
    {
      label: "Measures",
      options: measures
        .flatMap(({ name, clocks }) => clocks.map((clock) => `${name}|${clock}`))
        .map((key) => ({ value: key, label: measureColumn(key, own).title(family) })),
    },
    {
      label: "Own measures",
      options: own.map(({ id }) => ({
        value: `own|${id}`,
        label: measureColumn(`own|${id}`, own).title(family),
      })),
    },
    {
      label: "Car and setup",
      options: [...FACTS, CLAIM].map((column) => ({ value: column.key, label: column.title(family) })),
    },
  ];
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <Select
          mode="multiple"
          aria-label="Columns"
          className="column-choice"
          value={chosen}
          options={options}
          onChange={choose}
        />
      }
    >
      <Button>Columns</Button>
    </Popover>
  );
}

/** Saved views: one is shown by a click, and the one in sight is saved under a name. */
function Views({ view, show }: { view: View; show: (view: View) => void }) {
  const views = useTableViews().data ?? [];
  const save = useSaveTableView();
  const { person } = useSession();
  const [name, setName] = useState("");
  return (
    <div className="row below no-print">
      {views.map((each) => (
        <Button
          key={each.id}
          size="small"
          onClick={() => show({ columns: each.columns, sort: each.sort ?? "" })}
        >
          {each.name}
        </Button>
      ))}
      {person?.may_write && (
        <form
          className="row"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate({ name, ...view }, { onSuccess: () => setName("") });
          }}
        >
          <Input
            size="small"
            className="filter-box"
            aria-label="Name of the view"
            placeholder="save this view as …"
            maxLength={60}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <Button size="small" htmlType="submit" disabled={!name.trim()} loading={save.isPending}>
            Save view
          </Button>
        </form>
      )}
      {save.error && <Alert type="error" title={save.error.message} />}
    </div>
  );
}
