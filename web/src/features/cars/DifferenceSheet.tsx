import { Select } from "antd";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { withUnit, type Kind } from "../../shared/units";
import { useDifference } from "./queries";

const KINDS: Record<string, Kind> = {
  wheel_mass_kg: "mass",
  tire_pressure_kpa: "pressure",
  tire_pressure_hot_kpa: "pressure",
  tire_distance_km: "odometer",
};

/** Any two set-ups of the car, field by field: only what differs. */
export function DifferenceSheet({ car }: { car: Schemas["Car"] }) {
  const last = car.set_ups.length - 1;
  const [before, setBefore] = useState(car.set_ups[last - 1]?.id ?? 0);
  const [after, setAfter] = useState(car.set_ups[last]?.id ?? 0);
  const difference = useDifference(car.id, before, after);
  const options = car.set_ups.map((each) => ({ value: each.id, label: each.name }));
  return (
    <section className="sheet" aria-label="Difference">
      <h2>What differs</h2>
      <div style={{ display: "flex", gap: 8, flexWrap: "wrap", marginBottom: 8 }}>
        <Select
          aria-label="First set-up"
          value={before}
          onChange={setBefore}
          options={options}
          style={{ minWidth: 160 }}
        />
        <Select
          aria-label="Second set-up"
          value={after}
          onChange={setAfter}
          options={options}
          style={{ minWidth: 160 }}
        />
      </div>
      {before === after && <p>Choose two different set-ups.</p>}
      {difference.data && (
        <>
          {difference.data.differing.length === 0 && <p>Nothing that is written down.</p>}
          <div className="scroll">
            <table className="plain">
              <tbody>
                {difference.data.differing.map((row) => (
                  <tr key={row.name}>
                    <td className="quiet">{words(row.name)}</td>
                    <td>
                      <Value name={row.name} value={row.before} />
                    </td>
                    <td>
                      <Value name={row.name} value={row.after} />
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {difference.data.wheels && <p>{difference.data.wheels}</p>}
        </>
      )}
    </section>
  );
}

function Value({ name, value }: { name: string; value: string | null }) {
  const { family } = usePreferences();
  const kind = KINDS[name];
  if (value === null) return <>–</>;
  return <>{kind ? withUnit(Number(value), kind, family, 1) : value}</>;
}

/** `tire_pressure_hot_kpa` -> `tire pressure hot`. */
function words(name: string): string {
  return name
    .replace(/_(kg|kpa|km|in|mm)$/, (_, unit: string) => (unit === "in" || unit === "mm" ? `, ${unit}` : ""))
    .replaceAll("_", " ");
}
