import { Button, InputNumber, Select } from "antd";
import { useState } from "react";

import type { RunRow } from "../runs/queries";
import { withRuns, type AskedGroup } from "./ask";

interface Filter {
  setup?: string;
  day?: string;
  mode?: string;
  direction?: string;
  launch?: string;
  low?: number | null;
  high?: number | null;
}

interface Props {
  rows: readonly RunRow[];
  groups: AskedGroup[];
  set: (groups: AskedGroup[]) => void;
  show: (ids: number[] | null) => void;
}

/** The runs of a setup, day, mode, direction, launch aid and band of charge, put into a group together. */
export function FilterChoice({ rows, groups, set, show }: Props) {
  const [filter, setFilter] = useState<Filter>({});
  const any = isAny(filter);
  const ids = rows.filter((run) => fits(run, filter)).map((run) => run.id);
  const change = (changes: Filter) => {
    const next = { ...filter, ...changes };
    setFilter(next);
    show(isAny(next) ? rows.filter((run) => fits(run, next)).map((run) => run.id) : null);
  };
  const chooser = (name: "setup" | "day" | "mode" | "direction" | "launch", label: string) => (
    <Select
      allowClear
      aria-label={`Only ${label}`}
      placeholder={label}
      className="pick"
      popupMatchSelectWidth={false}
      value={filter[name]}
      options={[...new Set(rows.map((run) => words(run)[name]))]
        .filter(Boolean)
        .map((value) => ({ value, label: value }))}
      onChange={(value?: string) => change({ [name]: value })}
    />
  );
  return (
    <div className="choice">
      <span>By filter</span>
      {chooser("setup", "setup")}
      {chooser("day", "day")}
      {chooser("mode", "drive mode")}
      {chooser("direction", "direction")}
      {chooser("launch", "launch aid")}
      <span>
        charge{" "}
        <InputNumber
          aria-label="Charge from"
          size="middle"
          className="short"
          min={0}
          max={100}
          onChange={(low) => change({ low })}
        />{" "}
        to{" "}
        <InputNumber
          aria-label="Charge to"
          className="short"
          min={0}
          max={100}
          onChange={(high) => change({ high })}
        />{" "}
        %
      </span>
      {groups.map((group, place) =>
        group.typed_values?.length ? null : (
          <Button
            key={place}
            disabled={!any || !ids.length}
            onClick={() => set(withRuns(groups, ids, place))}
          >
            {`Add ${any ? `${ids.length} ` : ""}to ${group.name}`}
          </Button>
        ),
      )}
    </div>
  );
}

function isAny(filter: Filter): boolean {
  return Object.values(filter).some((value) => value !== undefined && value !== null);
}

function words(run: RunRow) {
  return {
    setup: `${run.car_name}: ${run.setup_name}`,
    day: run.start_utc.slice(0, 10),
    mode: run.drive_mode ?? "",
    direction: run.direction ?? "",
    launch: run.launch_aid === null || run.launch_aid === undefined ? "" : run.launch_aid ? "on" : "off",
  };
}

function fits(run: RunRow, filter: Filter): boolean {
  const noted = words(run);
  const names = ["setup", "day", "mode", "direction", "launch"] as const;
  const charge = run.charge_before_percent ?? null;
  const within =
    (filter.low == null || (charge !== null && charge >= filter.low)) &&
    (filter.high == null || (charge !== null && charge <= filter.high));
  return within && names.every((name) => !filter[name] || filter[name] === noted[name]);
}
