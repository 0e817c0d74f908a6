import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf, type Kind } from "../../shared/units";
import { Facts } from "../../shared/Facts";
import { DataTable } from "../../shared/DataTable";

type Timetable = Schemas["Timetable"];

export function TimetableSheet({ timetable, zone }: { timetable: Timetable; zone: string }) {
  return (
    <section className="sheet" aria-label="Timetable">
      <h2>Charge and heat</h2>
      <StepTable timetable={timetable} />
      {timetable.cautions.map((each) => (
        <p className="flag caution" key={each}>
          {each}
        </p>
      ))}
      <Expected timetable={timetable} />
      <p className="label">
        Clock at the course, {zone}. Each start is early enough on 39 days of 40.{" "}
        {timetable.learned_from.join(" ")} Heat from the runs themselves is not counted.
      </p>
    </section>
  );
}

export function StepTable({ timetable }: { timetable: Timetable }) {
  return (
    <DataTable
      rows={timetable.steps}
      rowKey={(step) => step.kind}
      columns={[
        { value: (step) => <span className="clock">{step.local}</span> },
        { value: (step) => <strong>{step.kind}</strong> },
        {
          wrap: true,
          value: (step) =>
            step.note + (step.early && step.late ? ` between ${step.early} and ${step.late}` : ""),
        },
      ]}
    />
  );
}

/** The state at the first run, with its interval. */
export function Expected({ timetable }: { timetable: Timetable }) {
  return (
    <div className="above">
      <Facts
        rows={[
          [
            "Battery at the first run",
            <Bounds key="battery" ranged={timetable.battery_temp_c} kind="temperature" />,
          ],
          [
            "Charge at the first run",
            <Bounds key="charge" ranged={timetable.charge_percent} kind="percent" />,
          ],
          ["Window stays open, min", <Bounds key="open" ranged={timetable.open_min} kind="plain" />],
          ["Chance that everything is met", `${Math.round(100 * timetable.chance)} %`],
        ]}
      />
    </div>
  );
}

function Bounds({ ranged, kind }: { ranged: Schemas["Ranged"]; kind: Kind }) {
  const { family } = usePreferences();
  const unit = unitOf(kind, family).name;
  const text = (value: number | null) => (value === null ? "no end" : fixed(shown(value, kind, family), 0));
  return (
    <span>
      <strong>
        {text(ranged.value)} {ranged.value === null ? "" : unit}
      </strong>{" "}
      <span className="u95">
        {text(ranged.low95)} to {text(ranged.high95)}
      </span>
    </span>
  );
}
