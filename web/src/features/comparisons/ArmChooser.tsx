import { Radio, Select } from "antd";

import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { withUnit } from "../../shared/units";
import { useCars } from "../cars/queries";
import { dayAndTime } from "../runs/measures";
import { useRuns, type RunRow } from "../runs/queries";
import { ARMS, type Arm, type Ask } from "./queries";

interface Props {
  ask: Ask;
  change: (changes: Partial<Ask>) => void;
}

/** A whole set-up into an arm at once, then run by run. */
export function ArmChooser({ ask, change }: Props) {
  const { car, family } = usePreferences();
  const stop = /-0 /.test(ask.measure);
  const runs = useRuns({
    ...(car === null ? {} : { car }),
    kind: stop ? "stop" : "standing",
    page_size: 500,
  });
  if (runs.isPending) return <Loading what="the runs" />;
  if (runs.error) return <Failed error={runs.error} retry={() => void runs.refetch()} />;
  const rows = runs.data.results;
  if (!rows.length) {
    return (
      <Nothing title="No runs to choose from">
        <p>Import logs on the Runs page, or choose another car above.</p>
      </Nothing>
    );
  }
  function put(ids: number[], into: Arm | null) {
    const without = (arm: number[]) => arm.filter((id) => !ids.includes(id));
    const added = (arm: Arm) => (into === arm ? [...without(ask[arm]), ...ids] : without(ask[arm]));
    change({ before: added("before"), after: added("after") });
  }
  const armOf = (id: number): Arm | null => ARMS.find((arm) => ask[arm].includes(id)) ?? null;
  return (
    <section className="sheet" aria-label="Choose the arms">
      <h2>Choose the arms</h2>
      <SetUpChoice rows={rows} ask={ask} change={change} />
      <div className="scroll">
        <table className="plain">
          <thead>
            <tr>
              <th>Arm</th>
              <th>Start, UTC</th>
              <th>Car and set-up</th>
              <th className="n">Charge</th>
              <th className="n">Pack</th>
              <th>Way</th>
              <th>Counts</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((run) => (
              <tr key={run.id}>
                <td>
                  <Radio.Group
                    aria-label={`Arm of the run of ${dayAndTime(run.start_utc)}`}
                    value={armOf(run.id)}
                    onChange={(event) => put([run.id], event.target.value as Arm | null)}
                    options={[
                      { value: "before", label: "before" },
                      { value: "after", label: "after" },
                      { value: null, label: "neither" },
                    ]}
                  />
                </td>
                <td>{dayAndTime(run.start_utc)}</td>
                <td>
                  {run.car_name}: {run.set_up_name}
                </td>
                <td className="n">{withUnit(run.charge_before_percent, "percent", family)}</td>
                <td className="n">{withUnit(run.pack_temp_before_c, "temperature", family)}</td>
                <td>{run.direction || "–"}</td>
                <td>
                  {run.validity === "void" ? `void: ${run.void_reason}` : run.counts ? "yes" : "not complete"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function SetUpChoice({ rows, ask, change }: Props & { rows: readonly RunRow[] }) {
  const cars = useCars();
  const options = (cars.data ?? []).flatMap((each) =>
    each.set_ups
      .filter((setUp) => rows.some((run) => run.set_up === setUp.id))
      .map((setUp) => ({ value: setUp.id, label: `${each.name}: ${setUp.name}` })),
  );
  function fill(arm: Arm, setUp: number) {
    const ids = rows.filter((run) => run.set_up === setUp).map((run) => run.id);
    const other: Arm = arm === "before" ? "after" : "before";
    change({ [arm]: ids, [other]: ask[other].filter((id) => !ids.includes(id)) });
  }
  return (
    <div style={{ display: "flex", flexWrap: "wrap", gap: 16, marginBottom: 12 }}>
      {ARMS.map((arm) => (
        <label key={arm}>
          <span className={`arm-mark ${arm}`} />
          {arm}, every run of{" "}
          <Select
            aria-label={`Set-up of the ${arm} arm`}
            style={{ minWidth: 220 }}
            placeholder="a set-up"
            options={options}
            onChange={(setUp: number) => fill(arm, setUp)}
          />
        </label>
      ))}
    </div>
  );
}
