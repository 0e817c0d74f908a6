import { Segmented, Select, Switch } from "antd";

import { usePreferences } from "../../shared/preferences";
import { useMeasure, useMeasures, type Measure } from "../../shared/useMeasure";
import type { Family } from "../../shared/units";
import { CLOCK_NAMES, inFamily } from "../../shared/measures";
import type { Ask } from "./ask";

type Quantity = NonNullable<Ask["quantity"]>;

/** What is measured, on which clock, and which quantity of it; only what the measure has is offered. */
export function AskBar({ ask, change }: { ask: Ask; change: (changes: Partial<Ask>) => void }) {
  const { family } = usePreferences();
  const measures = useMeasures() ?? [];
  const measure = useMeasure(ask.measure);
  return (
    <section className="sheet row" aria-label="The measure">
      <Select
        aria-label="Measure"
        className="pick"
        value={ask.measure}
        options={options(measures, family, ask.measure)}
        onChange={(name: string) => {
          const found = measures.find((each) => each.name === name);
          if (found) change(chosen(found, ask.clock));
        }}
      />
      <Segmented
        aria-label="Clock"
        value={ask.clock}
        onChange={(clock) => change({ clock })}
        options={(measure ? preferred(measure) : [ask.clock]).map((value) => ({
          value,
          label: CLOCK_NAMES[value] ?? value,
        }))}
      />
      <Segmented
        aria-label="Quantity"
        value={ask.quantity ?? "time"}
        onChange={(quantity) => change({ quantity })}
        options={quantities(measure)}
      />
      <label>
        <Switch
          size="small"
          aria-label="Matched by charge"
          checked={ask.match ?? false}
          onChange={(match) => change({ match })}
        />{" "}
        Only runs matched within 3 points of charge
      </label>
    </section>
  );
}

/** The measures in the groups of the list; those of the other unit family are left out. */
function options(measures: Measure[], family: Family, current: string) {
  const group = (label: string, belongs: (measure: Measure) => boolean) => ({
    label,
    title: label,
    options: measures
      .filter((measure) => belongs(measure) && (inFamily(measure.name, family) || measure.name === current))
      .map(({ name }) => ({ value: name, label: name })),
  });
  return [
    group("From rest", ({ basis, from_rest }) => basis === "speed" && from_rest),
    group("Distance", ({ basis }) => basis === "distance"),
    group("Speed to speed", ({ basis, from_rest }) => basis === "speed" && !from_rest),
    group("Stops", ({ basis }) => basis === "stop"),
  ];
}

/** Another measure, on the clock chosen where it has that one, with the quantity that is asked of it first. */
function chosen(measure: Measure, clock: Ask["clock"]): Partial<Ask> {
  return {
    measure: measure.name,
    clock: measure.clocks.includes(clock) ? clock : preferred(measure)[0],
    quantity: quantities(measure)[0]?.value,
  };
}

/** The clocks of a measure, rollout first. */
function preferred(measure: Measure): Ask["clock"][] {
  return [...measure.clocks].sort((a, b) => Number(b === "rollout") - Number(a === "rollout"));
}

function quantities(measure: Measure | undefined): { value: Quantity; label: string }[] {
  const time = { value: "time" as const, label: "time" };
  const distance = { value: "distance" as const, label: "distance" };
  const power = { value: "peak_power" as const, label: "peak power" };
  switch (measure?.basis) {
    case "stop":
      return [distance, time];
    case "speed":
      return [time, distance, power];
    case "distance":
      return [
        time,
        { value: "line_speed", label: "speed at the line" },
        { value: "trap_speed", label: "trap speed" },
        power,
      ];
    default:
      return [time];
  }
}
