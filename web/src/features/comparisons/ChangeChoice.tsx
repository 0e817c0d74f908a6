import { Select } from "antd";

import { useCars } from "../cars/queries";
import type { Candidates } from "./queries";

interface Props {
  offers: Candidates["offers"]["setup"];
  choose: (before: number, after: number) => void;
}

/** Before and after a change in one choice: the setup that it made, and the one before it. */
export function ChangeChoice({ offers, choose }: Props) {
  const cars = useCars();
  const driven = new Set(offers.map(({ word }) => Number(word)));
  const known = (cars.data ?? []).flatMap((car) =>
    car.setups.slice(1).flatMap((after, place) => {
      const before = car.setups[place];
      return before && driven.has(before.id) && driven.has(after.id)
        ? [{ car: car.name, before, after }]
        : [];
    }),
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
          if (chosen) choose(chosen.before.id, chosen.after.id);
        }}
      />
    </div>
  );
}
