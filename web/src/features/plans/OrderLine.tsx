import type { Schemas } from "../../api/client";

type Planned = Schemas["Planned"];

/** The runs of each day in order: one mark a run, its group by name, dash and color, its way by an arrow. */
export function OrderLine({ days }: { days: Planned[][] }) {
  const groups = [...new Set(days.flat().map((step) => step.group))];
  return (
    <ol className="order-days">
      {days.map((day, number) => (
        <li key={number}>
          {days.length > 1 && <span className="label">Day {number + 1}</span>}
          <ol className="order" aria-label={`Order of day ${number + 1}`}>
            {day.map((step, place) => (
              <li key={place} className={groups.indexOf(step.group) % 2 === 0 ? "mark-before" : "mark-after"}>
                {step.charge_percent === null ? step.group : `${step.charge_percent.toFixed(0)} %`}{" "}
                <span aria-label={step.direction}>{step.direction === "out" ? "→" : "←"}</span>
                {step.lane && ` ${step.lane}`}
              </li>
            ))}
          </ol>
        </li>
      ))}
    </ol>
  );
}
