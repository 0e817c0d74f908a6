import { Segmented, Select, Switch } from "antd";

import { usePreferences } from "../../shared/preferences";
import type { Family } from "../../shared/units";
import { CLOCK_NAMES, inFamily } from "../runs/measures";
import type { Ask } from "./ask";

const FROM_REST = ["0-30 mph", "0-60 mph", "0-100 mph", "0-130 mph", "0-50 km/h", "0-100 km/h", "0-200 km/h"];
const DISTANCES = ["60 ft", "330 ft", "1/8 mile", "1000 ft", "1/4 mile", "1/2 mile"];
const BETWEEN = ["30-70 mph", "60-130 mph", "80-120 km/h", "100-200 km/h"];
const STOPS = ["60-0 mph", "70-0 mph", "100-0 km/h", "130-0 km/h"];
type Quantity = NonNullable<Ask["quantity"]>;

/** What is measured, on which clock, and which quantity of it; only what the measure has is offered. */
export function AskBar({ ask, change }: { ask: Ask; change: (changes: Partial<Ask>) => void }) {
  const { family } = usePreferences();
  return (
    <section
      className="sheet"
      aria-label="The measure"
      style={{ display: "flex", gap: 16, flexWrap: "wrap", alignItems: "center" }}
    >
      <Select
        aria-label="Measure"
        style={{ minWidth: 170 }}
        value={ask.measure}
        options={options(family, ask.measure)}
        onChange={(measure: string) =>
          change({ measure, clock: clocks(measure, ask.clock), quantity: first(measure) })
        }
      />
      <Segmented
        aria-label="Clock"
        value={ask.clock}
        onChange={(clock) => change({ clock })}
        options={offered(ask.measure).map((value) => ({ value, label: CLOCK_NAMES[value] ?? value }))}
      />
      <Segmented
        aria-label="Quantity"
        value={ask.quantity ?? "time"}
        onChange={(quantity) => change({ quantity })}
        options={quantities(ask.measure)}
      />
      <label>
        <Switch
          size="small"
          aria-label="Matched by charge"
          checked={ask.match ?? false}
          onChange={(match) => change({ match })}
        />{" "}
        only runs matched within 3 points of charge
      </label>
    </section>
  );
}

function options(family: Family, current: string) {
  const group = (label: string, names: string[]) => ({
    label,
    title: label,
    options: names
      .filter((name) => inFamily(name, family) || name === current)
      .map((name) => ({ value: name, label: name })),
  });
  return [
    group("From rest", FROM_REST),
    group("Distance", DISTANCES),
    group("Speed to speed", BETWEEN),
    group("Stops", STOPS),
  ];
}

function offered(measure: string): Ask["clock"][] {
  return BETWEEN.includes(measure) || STOPS.includes(measure) ? ["speed"] : ["rollout", "first_movement"];
}

function clocks(measure: string, current: Ask["clock"]): Ask["clock"] {
  const fitting = offered(measure);
  return fitting.includes(current) ? current : (fitting[0] ?? current);
}

function first(measure: string): Quantity {
  return STOPS.includes(measure) ? "distance" : "time";
}

function quantities(measure: string): { value: Quantity; label: string }[] {
  const time = { value: "time" as const, label: "time" };
  const distance = { value: "distance" as const, label: "distance" };
  if (STOPS.includes(measure)) return [distance, time];
  if (!DISTANCES.includes(measure)) return [time, distance];
  return [
    time,
    { value: "line_speed", label: "speed at the line" },
    { value: "trap_speed", label: "trap speed" },
  ];
}
