import { Button, Input, Select } from "antd";
import { useState } from "react";

import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit } from "../../shared/units";
import { toTheSecond } from "../runs/measures";
import { useRuns, type RunRow } from "../runs/queries";
import { armMark } from "./arms";
import { armOfRuns, MOST_ARMS, nextName, size, withRuns, type Ask, type AskedArm } from "./ask";
import { ChangeChoice } from "./ChangeChoice";
import { FilterChoice } from "./FilterChoice";
import { TypedArm } from "./TypedArm";

interface Props {
  ask: Ask;
  change: (changes: Partial<Ask>) => void;
}

/** Arms by a change, by any filter, run by run, or typed from elsewhere. */
export function ArmChooser({ ask, change }: Props) {
  const { car } = usePreferences();
  const stop = /-0 /.test(ask.measure);
  const runs = useRuns({
    ...(car === null ? {} : { car }),
    ...(stop ? { kind: "stop" as const } : {}),
    page_size: 500,
  });
  const [shown, setShown] = useState<number[] | null>(null);
  if (runs.isPending) return <Loading what="the runs" />;
  if (runs.error) return <Failed error={runs.error} retry={() => void runs.refetch()} />;
  const rows = runs.data.results.filter((run) => stop || run.kind !== "stop");
  if (!rows.length) {
    return (
      <Nothing title="No runs to choose from">
        <p>Import logs on the Runs page, or choose another car above.</p>
      </Nothing>
    );
  }
  const arms = ask.arms;
  const set = (next: AskedArm[]) => change({ arms: next });
  return (
    <section className="sheet no-print" aria-label="Choose the groups">
      <h2>Choose the groups</h2>
      <ChangeChoice rows={rows} choose={set} />
      <ArmsBar arms={arms} set={set} clock={ask.clock} />
      <FilterChoice rows={rows} arms={arms} set={set} show={setShown} />
      <RunRows rows={shown ? rows.filter((run) => shown.includes(run.id)) : rows} arms={arms} set={set} />
    </section>
  );
}

function ArmsBar({
  arms,
  set,
  clock,
}: {
  arms: AskedArm[];
  set: (arms: AskedArm[]) => void;
  clock: Ask["clock"];
}) {
  const rename = (place: number, name: string) =>
    set(arms.map((arm, each) => (each === place ? { ...arm, name } : arm)));
  return (
    <div className="arms-bar">
      {arms.map((arm, place) => (
        <span key={place} className="arm-box">
          <span className={armMark(place)} />
          <Input
            size="small"
            aria-label={`Name of group ${place + 1}`}
            value={arm.name}
            maxLength={40}
            style={{ width: 130 }}
            onChange={(event) => rename(place, event.target.value)}
          />
          <span className="quiet">
            {size(arm)} {arm.typed?.length ? "typed" : "runs"}
          </span>
          {(place > 1 || size(arm) > 0) && (
            <Button
              size="small"
              type="text"
              aria-label={`Empty ${arm.name}`}
              onClick={() =>
                set(
                  place > 1
                    ? arms.filter((_, each) => each !== place)
                    : arms.map((each, at) => (at === place ? armOfRuns(each.name) : each)),
                )
              }
            >
              {place > 1 ? "remove" : "empty"}
            </Button>
          )}
        </span>
      ))}
      {arms.length < MOST_ARMS && (
        <Button size="small" onClick={() => set([...arms, armOfRuns(nextName(arms))])}>
          Add a group
        </Button>
      )}
      <TypedArm arms={arms} set={set} clock={clock} />
    </div>
  );
}

function RunRows({
  rows,
  arms,
  set,
}: {
  rows: readonly RunRow[];
  arms: AskedArm[];
  set: (arms: AskedArm[]) => void;
}) {
  const { family } = usePreferences();
  const options = [
    { value: -1, label: "neither" },
    ...arms.map((arm, value) => ({ value, label: arm.name, disabled: (arm.typed?.length ?? 0) > 0 })),
  ];
  const armOf = (id: number) => arms.findIndex((arm) => arm.runs?.includes(id));
  return (
    <div className="scroll">
      <table className="plain">
        <thead>
          <tr>
            <th>Group</th>
            <th>Start, UTC</th>
            <th>Car and set-up</th>
            <th className="n">Charge</th>
            <th className="n">Pack</th>
            <th>Direction</th>
            <th>Counts</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((run) => (
            <tr key={run.id}>
              <td>
                <Select
                  size="small"
                  style={{ width: 120 }}
                  aria-label={`Group of the run of ${toTheSecond(run.start_utc)}`}
                  value={armOf(run.id)}
                  options={options}
                  onChange={(place) => set(withRuns(arms, [run.id], place < 0 ? null : place))}
                />
              </td>
              <td className="nowrap">{toTheSecond(run.start_utc)}</td>
              <td>
                {run.car_name}: {run.set_up_name}
              </td>
              <td className="n">{withUnit(run.charge_before_percent, "percent", family)}</td>
              <td className="n">{withUnit(run.pack_temp_before_c, "temperature", family)}</td>
              <td>{run.direction || "–"}</td>
              <td>
                {run.validity === "void"
                  ? `void: ${run.void_reason}`
                  : run.counts
                    ? "yes"
                    : "what it reached"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
