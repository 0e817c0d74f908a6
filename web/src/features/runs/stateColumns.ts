import type { Column } from "../../shared/DataTable";
import { withUnit, type Family } from "../../shared/units";

interface State {
  charge_before_percent: number | null;
  battery_temp_before_c: number | null;
}

/** Charge and battery temperature before a run, as every table of runs shows them. */
export function stateColumns<Row extends State>(family: Family): Column<Row>[] {
  return [
    {
      title: "Charge",
      number: true,
      value: (run) => withUnit(run.charge_before_percent, "percent", family),
    },
    {
      title: "Battery",
      number: true,
      value: (run) => withUnit(run.battery_temp_before_c, "temperature", family),
    },
  ];
}
