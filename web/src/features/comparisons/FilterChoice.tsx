import { Button, InputNumber, Select } from "antd";
import { useState } from "react";

import type { RunRow } from "../runs/queries";
import { withRuns, type AskedArm } from "./ask";

interface Filter {
  set_up?: string;
  day?: string;
  mode?: string;
  way?: string;
  launch?: string;
  low?: number | null;
  high?: number | null;
}

interface Props {
  rows: readonly RunRow[];
  arms: AskedArm[];
  set: (arms: AskedArm[]) => void;
  show: (ids: number[] | null) => void;
}

/** The runs of a set-up, day, mode, way, launch aid and band of charge, put into an arm together. */
export function FilterChoice({ rows, arms, set, show }: Props) {
  const [filter, setFilter] = useState<Filter>({});
  const any = isAny(filter);
  const ids = rows.filter((run) => fits(run, filter)).map((run) => run.id);
  const change = (changes: Filter) => {
    const next = { ...filter, ...changes };
    setFilter(next);
    show(isAny(next) ? rows.filter((run) => fits(run, next)).map((run) => run.id) : null);
  };
  const chooser = (name: "set_up" | "day" | "mode" | "way" | "launch", label: string) => (
    <Select
      allowClear
      aria-label={`Only ${label}`}
      placeholder={label}
      style={{ minWidth: 110 }}
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
      {chooser("set_up", "set-up")}
      {chooser("day", "day")}
      {chooser("mode", "drive mode")}
      {chooser("way", "direction")}
      {chooser("launch", "launch aid")}
      <span>
        charge{" "}
        <InputNumber
          aria-label="Charge from"
          size="middle"
          style={{ width: 70 }}
          min={0}
          max={100}
          onChange={(low) => change({ low })}
        />{" "}
        to{" "}
        <InputNumber
          aria-label="Charge to"
          style={{ width: 70 }}
          min={0}
          max={100}
          onChange={(high) => change({ high })}
        />{" "}
        %
      </span>
      {arms.map((arm, place) =>
        arm.typed?.length ? null : (
          <Button key={place} disabled={!any || !ids.length} onClick={() => set(withRuns(arms, ids, place))}>
            {any ? `${ids.length} ` : ""}into {arm.name}
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
    set_up: `${run.car_name}: ${run.set_up_name}`,
    day: run.start_utc.slice(0, 10),
    mode: run.drive_mode ?? "",
    way: run.direction ?? "",
    launch: run.launch_aid === null || run.launch_aid === undefined ? "" : run.launch_aid ? "on" : "off",
  };
}

function fits(run: RunRow, filter: Filter): boolean {
  const noted = words(run);
  const names = ["set_up", "day", "mode", "way", "launch"] as const;
  const charge = run.charge_before_percent ?? null;
  const within =
    (filter.low == null || (charge !== null && charge >= filter.low)) &&
    (filter.high == null || (charge !== null && charge <= filter.high));
  return within && names.every((name) => !filter[name] || filter[name] === noted[name]);
}
