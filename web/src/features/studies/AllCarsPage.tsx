import { Alert, Button, Input, Popover, Select } from "antd";
import { useMemo, useState } from "react";
import { Link } from "react-router";

import { DataTable, type Column } from "../../shared/DataTable";
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
        <DataTable
          tall
          wide
          label="All cars"
          rows={rows}
          rowKey={(row) => row.setup}
          sorting={{ by: view.sort, change: (sort) => setView({ ...view, sort: sort ?? "" }) }}
          columns={[NAMED, ...columns.map((column) => shownColumn(column, family))]}
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

const NAMED: Column<AllCarsRow> = {
  title: "Car and setup",
  wrap: true,
  value: (row) => (
    <>
      <Link to={`/cars/${row.car}`}>{row.car_name}</Link>
      <br />
      <span className="u95">{row.setup_name}</span>
    </>
  ),
};

function shownColumn(column: CarColumn, family: Family): Column<AllCarsRow> {
  const measured = column.key.includes("|");
  return {
    title: column.title(family),
    wrap: !column.number,
    number: column.number,
    sort: column.key,
    value: (row) => (measured ? <Value row={row} column={column} /> : factText(row, column, family)),
  };
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
