import { AutoComplete, Select } from "antd";
import { useState } from "react";

import { usePreferences } from "../../shared/preferences";
import { useSettled } from "../../shared/useSettled";
import { useCarNames } from "../cars/queries";
import { useStripCheck } from "./queries";
import { StripParts } from "./StripParts";

const TARGETS = ["0-60 mph", "0-100 mph", "0-100 km/h", "1/8 mile", "1/4 mile", "100-0 km/h", "60-0 mph"];

/** Whether a car's run to a target fits; the answer comes first. */
export function StripSheet({ course }: { course: number }) {
  const cars = useCarNames();
  const { car: chosen, family } = usePreferences();
  const [car, setCar] = useState<number | null>(chosen);
  const [target, setTarget] = useState(family === "us" ? "0-60 mph" : "0-100 km/h");
  const first = car ?? cars.data?.[0]?.id ?? null;
  const settled = useSettled(target);
  const check = useStripCheck(course, first === null ? null : { car: first, target: settled });
  return (
    <section className="sheet" aria-label="Strip check">
      <h2>Is it long enough?</h2>
      <div className="row">
        <Select
          aria-label="Car of the check"
          className="pick"
          value={first}
          onChange={setCar}
          options={cars.data?.map((each) => ({ value: each.id, label: each.name })) ?? []}
        />
        <AutoComplete
          aria-label="Target"
          className="pick"
          value={target}
          onChange={setTarget}
          options={TARGETS.map((value) => ({ value }))}
        />
      </div>
      {check.error && <p className="flag caution">{check.error.message}</p>}
      {check.data && <StripParts check={check.data} />}
      {first === null && (
        <p>Add a car first: the distance it needs comes from its runs, or from its mass and power.</p>
      )}
    </section>
  );
}
