import { Select } from "antd";

import { useCars } from "../cars/queries";
import type { RunRow } from "../runs/queries";
import { twoArms, type AskedArm } from "./ask";

/** Before and after a change in one choice: the set-up that it made, and the one before it. */
export function ChangeChoice({
  rows,
  choose,
}: {
  rows: readonly RunRow[];
  choose: (arms: AskedArm[]) => void;
}) {
  const cars = useCars();
  const of = (setUp: number) => rows.filter((run) => run.set_up === setUp).map((run) => run.id);
  const changes = (cars.data ?? []).flatMap((car) =>
    car.set_ups.slice(1).map((after, place) => ({ car: car.name, before: car.set_ups[place], after })),
  );
  const known = changes.filter(
    (each) => each.before && of(each.before.id).length && of(each.after.id).length,
  );
  if (!known.length) return null;
  return (
    <div className="choice">
      <label htmlFor="by-change">By change</label>
      <Select
        id="by-change"
        aria-label="By change"
        style={{ minWidth: 320 }}
        placeholder="the runs before and after it"
        value={null}
        options={known.map((each) => ({
          value: each.after.id,
          label: `${each.car}: ${each.after.change} to ${each.after.name}`,
        }))}
        onChange={(setUp: number | null) => {
          const chosen = known.find((each) => each.after.id === setUp);
          if (chosen?.before) choose(twoArms(of(chosen.before.id), of(chosen.after.id)));
        }}
      />
    </div>
  );
}
