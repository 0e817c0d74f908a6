import type { ReactNode } from "react";

import { fixed, shown, withUnit, type Family } from "../../shared/units";
import { When } from "../../shared/When";
import { headline } from "../../shared/measures";
import type { RunRow } from "./queries";

export interface Column {
  key: string;
  title: string;
  sort?: string;
  numeric?: boolean;
  cell: (run: RunRow) => ReactNode;
}

/** The columns of the table of runs, in the order of reading; `key` is also the filter's name. */
export function columnsFor(family: Family): Column[] {
  const from_rest = headline("standing", family);
  const stop = headline("stop", family);
  return [
    { key: "start", title: "Start", sort: "start_utc", cell: (run) => <When of={run} /> },
    { key: "car", title: "Car", sort: "setup__car__name", cell: (run) => run.car_name },
    { key: "setup_name", title: "Setup", sort: "setup__name", cell: (run) => run.setup_name },
    {
      key: "kind",
      title: "Kind",
      sort: "kind",
      cell: (run) => KINDS_SHORT[run.kind],
    },
    time(`${from_rest} rollout`, from_rest, "rollout"),
    time(`${from_rest} first movement`, from_rest, "first_movement"),
    time("1/4 mile rollout", "1/4 mile", "rollout"),
    {
      key: "stop",
      title: `${stop}, ${family === "us" ? "ft" : "m"}`,
      numeric: true,
      cell: (run) => {
        const meters = run.headlines.find((row) => row.name === stop)?.distance_m;
        return fixed(typeof meters === "number" ? shown(meters, "distance", family) : null, 1);
      },
    },
    {
      key: "charge",
      title: "Charge",
      sort: "charge_before_percent",
      numeric: true,
      cell: (run) => withUnit(run.charge_before_percent, "percent", family),
    },
    {
      key: "battery",
      title: "Battery",
      sort: "battery_temp_before_c",
      numeric: true,
      cell: (run) => withUnit(run.battery_temp_before_c, "temperature", family),
    },
    {
      key: "outside",
      title: "Outside",
      sort: "outside_temp_c",
      numeric: true,
      cell: (run) => withUnit(run.outside_temp_c, "temperature", family),
    },
    { key: "drive_mode", title: "Mode", sort: "drive_mode", cell: (run) => run.drive_mode || "–" },
    {
      key: "direction",
      title: "Direction",
      sort: "direction",
      cell: (run) => run.direction || "–",
    },
    {
      key: "slope",
      title: "Slope, %",
      sort: "slope_percent",
      numeric: true,
      cell: (run) => fixed(run.slope_percent, 2),
    },
    {
      key: "peak",
      title: "Peak, g",
      sort: "peak_acceleration_g",
      numeric: true,
      cell: (run) => fixed(run.peak_acceleration_g, 2),
    },
    { key: "validity", title: "Counts", sort: "validity", cell: validity },
    { key: "log", title: "Log", cell: (run) => run.log_name },
  ];
}

export const KINDS_SHORT: Record<string, string> = { standing: "standing", rolling: "roll-on", stop: "stop" };
export const KINDS: Record<string, string> = { standing: "standing start", rolling: "roll-on", stop: "stop" };

function time(title: string, name: string, clock: string): Column {
  return {
    key: `${name} ${clock}`,
    title,
    sort: `${name}|${clock}`,
    numeric: true,
    cell(run) {
      const row = run.headlines.find((each) => each.name === name && each.clock === clock);
      if (!row || row.time_s === null || row.time_s === undefined) return "–";
      return (
        <>
          {fixed(row.time_s, 2)} <span className="u95">± {fixed(row.time_u95_s, 2)}</span>
        </>
      );
    },
  };
}

function validity(run: RunRow): ReactNode {
  const flags = run.flags.map((flag) => flag.message).join(" ");
  const words = run.validity === "void" ? `void: ${run.void_reason}` : run.counts ? "yes" : "not complete";
  return (
    <>
      {words}
      {run.flags.length > 0 && (
        <span className="flagged" title={flags}>
          {run.flags.length} flag{run.flags.length > 1 && "s"}
        </span>
      )}
    </>
  );
}
