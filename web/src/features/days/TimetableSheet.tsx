import type { Schemas } from "../../api/client";
import { usePreferences } from "../../shared/preferences";
import { fixed, shown, unitOf, type Kind } from "../../shared/units";

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
        Clock at the course, {zone}. What we begin is set early enough for 39 days in 40.{" "}
        {timetable.learned_from.join(" ")} The runs’ own heat is not counted.
      </p>
    </section>
  );
}

export function StepTable({ timetable }: { timetable: Timetable }) {
  return (
    <div className="scroll">
      <table className="plain">
        <tbody>
          {timetable.steps.map((step) => (
            <tr key={step.kind}>
              <td className="clock">{step.local}</td>
              <td>
                <strong>{step.kind}</strong>
              </td>
              <td>
                {step.note}
                {step.early && step.late && ` between ${step.early} and ${step.late}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The state at the first run, with its interval. */
export function Expected({ timetable }: { timetable: Timetable }) {
  return (
    <dl className="facts" style={{ marginTop: 10 }}>
      <Bounds name="Pack at the first run" ranged={timetable.pack_temp_c} kind="temperature" />
      <Bounds name="Charge at the first run" ranged={timetable.charge_percent} kind="percent" />
      <Bounds name="Window stays open, min" ranged={timetable.open_min} kind="plain" />
      <div>
        <dt>Chance that all of it holds</dt>
        <dd>{Math.round(100 * timetable.chance)} %</dd>
      </div>
    </dl>
  );
}

function Bounds({ name, ranged, kind }: { name: string; ranged: Schemas["Ranged"]; kind: Kind }) {
  const { family } = usePreferences();
  const unit = unitOf(kind, family).name;
  const told = (value: number | null) => (value === null ? "no end" : fixed(shown(value, kind, family), 0));
  return (
    <div>
      <dt>{name}</dt>
      <dd>
        <strong>
          {told(ranged.value)} {ranged.value === null ? "" : unit}
        </strong>{" "}
        <span className="u95">
          {told(ranged.low95)} to {told(ranged.high95)}
        </span>
      </dd>
    </div>
  );
}
