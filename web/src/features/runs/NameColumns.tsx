import { Button, Select } from "antd";
import { useState } from "react";

import type { Layout, Meaning } from "./imports";

export const MEANINGS: [Meaning, string][] = [
  ["utc", "time, UTC"],
  ["elapsed_s", "time since the start, s"],
  ["speed_kmh", "speed, km/h"],
  ["speed_mph", "speed, mph"],
  ["speed_mps", "speed, m/s"],
  ["speed_kn", "speed, knots"],
  ["latitude_deg", "latitude, degrees"],
  ["longitude_deg", "longitude, degrees"],
  ["course_deg", "course, degrees"],
  ["altitude_m", "altitude, m"],
  ["altitude_ft", "altitude, ft"],
  ["satellites", "satellites"],
  ["hdop", "HDOP"],
];

interface Props {
  headings: string[];
  first?: Layout;
  submit: string;
  done: (layout: Layout) => void;
}

/** Names the headings of a table once; files with the same headings are read the same way from then on. */
export function NameColumns({ headings, first = {}, submit, done }: Props) {
  const [layout, setLayout] = useState(first);
  const chosen = Object.values(layout);
  const ready =
    chosen.some((each) => each.startsWith("speed")) &&
    (chosen.includes("utc") || chosen.includes("elapsed_s"));
  function choose(heading: string, meaning: Meaning | undefined) {
    const others = Object.entries(layout).filter(([each]) => each !== heading);
    setLayout(Object.fromEntries(meaning ? [...others, [heading, meaning]] : others));
  }
  return (
    <div role="group" aria-label="Columns of this file" className="above">
      <p className="flush below">
        Choose what each column means; time and speed are required. Coombe remembers the choice.
      </p>
      <div className="form-grid">
        {headings.map((heading, index) => (
          <label key={`${heading} ${index}`} className="stack below">
            <span className="label">{heading || `column ${index + 1}`}</span>
            <Select
              aria-label={heading || `column ${index + 1}`}
              allowClear
              placeholder="not used"
              value={layout[heading]}
              options={MEANINGS.map(([value, label]) => ({ value, label }))}
              onChange={(meaning: Meaning | undefined) => choose(heading, meaning)}
            />
          </label>
        ))}
      </div>
      <Button type="primary" disabled={!ready} onClick={() => done(layout)}>
        {submit}
      </Button>
    </div>
  );
}
