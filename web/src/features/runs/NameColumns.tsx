import { Button, Select } from "antd";
import { useState } from "react";

import type { Layout } from "./useImport";

const MEANINGS: [string, string][] = [
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

/** Names the headings of a table once; files with the same headings are read the same way from then on. */
export function NameColumns({ headings, done }: { headings: string[]; done: (layout: Layout) => void }) {
  const [layout, setLayout] = useState<Layout>({});
  const chosen = Object.values(layout);
  const ready =
    chosen.some((each) => each.startsWith("speed")) &&
    (chosen.includes("utc") || chosen.includes("elapsed_s"));
  function choose(heading: string, meaning: string | undefined) {
    const others = Object.entries(layout).filter(([each]) => each !== heading);
    setLayout(Object.fromEntries(meaning ? [...others, [heading, meaning]] : others));
  }
  return (
    <div role="group" aria-label="Columns of this file" style={{ marginTop: 8 }}>
      <p style={{ margin: "0 0 6px" }}>
        Say what its columns mean; time and speed are needed. It is remembered.
      </p>
      <div className="form-grid">
        {headings.map((heading, index) => (
          <label key={`${heading} ${index}`} style={{ display: "grid", marginBottom: 8 }}>
            <span className="label">{heading || `column ${index + 1}`}</span>
            <Select
              aria-label={heading || `column ${index + 1}`}
              allowClear
              placeholder="not used"
              options={MEANINGS.map(([value, label]) => ({ value, label }))}
              onChange={(meaning: string | undefined) => choose(heading, meaning)}
            />
          </label>
        ))}
      </div>
      <Button type="primary" disabled={!ready} onClick={() => done(layout)}>
        Read it so
      </Button>
    </div>
  );
}
