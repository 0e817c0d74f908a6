import { Select } from "antd";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { withUnit, type Kind } from "../../shared/units";
import { DataTable } from "../../shared/DataTable";
import { useDifference } from "./queries";

const KINDS: Record<string, Kind> = {
  wheel_mass_kg: "mass",
  tire_pressure_kpa: "pressure",
  tire_pressure_hot_kpa: "pressure",
  tire_distance_km: "odometer",
};

/** Any two setups of the car, field by field: only what differs. */
export function DifferenceSheet({ car }: { car: Schemas["Car"] }) {
  const last = car.setups.length - 1;
  const [before, setBefore] = useState(car.setups[last - 1]?.id ?? 0);
  const [after, setAfter] = useState(car.setups[last]?.id ?? 0);
  const difference = useDifference(car.id, before, after);
  const options = car.setups.map((each) => ({ value: each.id, label: each.name }));
  const nameOf = (id: number) => car.setups.find((each) => each.id === id)?.name;
  return (
    <section className="sheet" aria-label="Difference">
      <h2>Differences between setups</h2>
      <div className="row below">
        <Select
          aria-label="First setup"
          value={before}
          onChange={setBefore}
          options={options}
          className="pick"
        />
        <Select
          aria-label="Second setup"
          value={after}
          onChange={setAfter}
          options={options}
          className="pick"
        />
      </div>
      {before === after && <p>Choose two different setups.</p>}
      {difference.data && (
        <>
          {before !== after && difference.data.differing.length === 0 && <p>No recorded difference.</p>}
          <DataTable
            rows={difference.data.differing}
            rowKey={(row) => row.name}
            columns={[
              { value: (row) => <span className="quiet">{words(row.name)}</span> },
              {
                title: nameOf(before),
                wrap: true,
                value: (row) => <Value name={row.name} value={row.before} />,
              },
              {
                title: nameOf(after),
                wrap: true,
                value: (row) => <Value name={row.name} value={row.after} />,
              },
            ]}
          />
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
