import { Select } from "antd";

import { useCars } from "../cars/queries";
import type { RunRow } from "../runs/queries";
import { twoGroups, type AskedGroup } from "./ask";

/** Before and after a change in one choice: the setup that it made, and the one before it. */
export function ChangeChoice({
  rows,
  choose,
}: {
  rows: readonly RunRow[];
  choose: (groups: AskedGroup[]) => void;
}) {
  const cars = useCars();
  const of = (setup: number) => rows.filter((run) => run.setup === setup).map((run) => run.id);
  const changes = (cars.data ?? []).flatMap((car) =>
    car.setups.slice(1).map((after, place) => ({ car: car.name, before: car.setups[place], after })),
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
        className="pick wide"
        placeholder="the runs before and after it"
        value={null}
        options={known.map((each) => ({
          value: each.after.id,
          label: `${each.car}: ${each.after.change} to ${each.after.name}`,
        }))}
        onChange={(setup: number | null) => {
          const chosen = known.find((each) => each.after.id === setup);
          if (chosen?.before) choose(twoGroups(of(chosen.before.id), of(chosen.after.id)));
        }}
      />
    </div>
  );
}
