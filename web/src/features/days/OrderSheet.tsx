import { Button, Select } from "antd";
import { useState } from "react";

import { useAmount } from "../plans/amount";
import { usePreferences } from "../../shared/preferences";
import { withUnit } from "../../shared/units";
import { STATE_WORDS, useDayActions, type Day, type Step } from "./queries";

/** The day's runs in order: what is next stands out, and every change is a key or a button away. */
export function OrderSheet({ day, mayWrite }: { day: Day; mayWrite: boolean }) {
  const actions = useDayActions(day.id);
  const next = day.steps.find((step) => step.state === "open");
  const amount = useAmount(day.measure);
  function move(step: Step, by: number) {
    const ids = day.steps.map((each) => each.id);
    const place = ids.indexOf(step.id);
    ids.splice(place, 1);
    ids.splice(place + by, 0, step.id);
    actions.reorder.mutate(ids);
  }
  return (
    <section className="sheet" aria-label="Runs">
      <h2>
        Runs: {day.budget.done} driven, {day.budget.open} open
      </h2>
      <p>
        {day.can_still_show === null
          ? new Set(day.steps.map((step) => step.arm)).size > 1 &&
            "Too few runs are left to show a difference."
          : `Driven and open together still show ${amount(day.can_still_show)}; ${amount(day.smallest_difference)} matter.`}{" "}
        The charge, {day.budget.charge_percent.toFixed(0)} %{day.budget.charge_is_estimated && " by estimate"}
        , allows {day.budget.likely} more, surely {day.budget.sure}.
      </p>
      {actions.error && <p className="flag void">{actions.error.message}</p>}
      <div className="scroll">
        <table className="plain one-line">
          <thead>
            <tr>
              <th className="n">No.</th>
              <th>Group</th>
              <th>Direction</th>
              <th>Before it</th>
              <th>State</th>
              {mayWrite && <th>Change</th>}
            </tr>
          </thead>
          <tbody>
            {day.steps.map((step, place) => (
              <tr key={step.id} className={step === next ? "next-run" : undefined}>
                <td className="n">{place + 1}</td>
                <td>
                  <ArmMark step={step} day={day} />
                  {step.arm_name}
                </td>
                <td>
                  {[step.direction === "out" ? "out →" : "back ←", step.lane].filter(Boolean).join(", ")}
                </td>
                <td>{<Before step={step} />}</td>
                <td>{step === next ? "next" : STATE_WORDS[step.state ?? "open"]}</td>
                {mayWrite && (
                  <td>
                    <StepButtons
                      step={step}
                      actions={actions}
                      first={place === 0}
                      last={place === day.steps.length - 1}
                      move={move}
                    />
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {mayWrite && (
        <AddRun day={day} add={(arm, direction) => actions.add.mutate({ day: day.id, arm, direction })} />
      )}
    </section>
  );
}

function ArmMark({ step, day }: { step: Step; day: Day }) {
  const arms = [...new Set(day.steps.map((each) => each.arm))].sort((a, b) => a - b);
  return (
    <span
      className={`arm-mark ${arms.indexOf(step.arm) % 2 === 1 || step.arm_name === "after" ? "after" : ""}`}
    />
  );
}

function Before({ step }: { step: Step }) {
  const { family } = usePreferences();
  const told = [
    step.charge_percent != null && `at ${step.charge_percent.toFixed(0)} %`,
    step.from_speed_mps != null && `from ${withUnit(step.from_speed_mps, "speed", family, 0)}`,
    step.wait_min ? `cool ${step.wait_min} min` : false,
  ].filter(Boolean);
  return told.length ? told.join(", ") : "–";
}

interface ButtonsProps {
  step: Step;
  actions: ReturnType<typeof useDayActions>;
  first: boolean;
  last: boolean;
  move: (step: Step, by: number) => void;
}

function StepButtons({ step, actions, first, last, move }: ButtonsProps) {
  const name = `run ${step.position + 1}`;
  const set = (state: Step["state"]) => () =>
    actions.settle.mutate({ id: step.id, revision: step.revision, state });
  return (
    <span style={{ display: "inline-flex", gap: 4 }}>
      {step.state === "open" ? (
        <>
          <Button size="small" onClick={set("done")} aria-label={`Driven: ${name}`}>
            Driven
          </Button>
          <Button size="small" onClick={set("skipped")} aria-label={`Skip ${name}`}>
            Skip
          </Button>
        </>
      ) : (
        <Button size="small" onClick={set("open")} aria-label={`Open again: ${name}`}>
          Undo
        </Button>
      )}
      <Button size="small" onClick={() => actions.repeat.mutate(step.id)} aria-label={`Repeat ${name}`}>
        Repeat
      </Button>
      <Button size="small" disabled={first} onClick={() => move(step, -1)} aria-label={`Earlier: ${name}`}>
        ↑
      </Button>
      <Button size="small" disabled={last} onClick={() => move(step, 1)} aria-label={`Later: ${name}`}>
        ↓
      </Button>
    </span>
  );
}

function AddRun({ day, add }: { day: Day; add: (arm: number, direction: "out" | "back") => void }) {
  const arms = [...new Map(day.steps.map((step) => [step.arm, step.arm_name])).entries()];
  const [arm, setArm] = useState(arms[0]?.[0] ?? 0);
  const [direction, setDirection] = useState<"out" | "back">("out");
  return (
    <div style={{ display: "flex", gap: 8, marginTop: 10, flexWrap: "wrap" }}>
      <Select
        aria-label="Group of the added run"
        style={{ minWidth: 120 }}
        value={arm}
        onChange={setArm}
        options={arms.map(([value, label]) => ({ value, label }))}
      />
      <Select
        aria-label="Direction of the added run"
        value={direction}
        onChange={setDirection}
        options={[
          { value: "out", label: "out" },
          { value: "back", label: "back" },
        ]}
      />
      <Button onClick={() => add(arm, direction)}>Add a run</Button>
    </div>
  );
}
