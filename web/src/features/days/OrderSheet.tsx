import { Button, Select } from "antd";
import { useState } from "react";

import { usePreferences } from "../../shared/preferences";
import { withUnit } from "../../shared/units";
import { DataTable } from "../../shared/DataTable";
import { STATE_WORDS, useDayActions, type Day, type Step } from "./queries";

/** The day's runs in order: what is next stands out, and every change is a key or a button away. */
export function OrderSheet({ day, mayWrite }: { day: Day; mayWrite: boolean }) {
  const actions = useDayActions(day.id);
  const next = day.scheduled_runs.find((step) => step.state === "open");
  function move(step: Step, by: number) {
    const ids = day.scheduled_runs.map((each) => each.id);
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
        {day.can_still_show?.sentence} The charge, {day.budget.charge_percent.toFixed(0)} %
        {day.budget.charge_is_estimated && " by estimate"}, allows about {day.budget.likely} more runs, at
        least {day.budget.sure}.
      </p>
      {actions.error && <p className="flag void">{actions.error.message}</p>}
      <DataTable
        rows={day.scheduled_runs}
        rowKey={(step) => step.id}
        rowClass={(step) => (step === next ? "next-run" : "")}
        columns={[
          { title: "No.", number: true, value: (_, place) => place + 1 },
          {
            title: "Group",
            value: (step) => (
              <>
                <GroupMark step={step} day={day} />
                {step.group_name}
              </>
            ),
          },
          { title: "Direction", value: (step) => directionOf(step) },
          { title: "Before the run", value: (step) => <Before step={step} /> },
          {
            title: "State",
            value: (step) => (step === next ? "next" : STATE_WORDS[step.state ?? "open"]),
          },
          mayWrite && {
            title: "Actions",
            value: (step, place) => (
              <StepButtons
                step={step}
                actions={actions}
                first={place === 0}
                last={place === day.scheduled_runs.length - 1}
                move={move}
              />
            ),
          },
        ]}
      />
      {mayWrite && (
        <AddRun day={day} add={(group, direction) => actions.add.mutate({ day: day.id, group, direction })} />
      )}
    </section>
  );
}

function directionOf(step: Step): string {
  return [step.direction === "out" ? "out →" : "back ←", step.lane].filter(Boolean).join(", ");
}

function GroupMark({ step, day }: { step: Step; day: Day }) {
  const groups = [...new Set(day.scheduled_runs.map((each) => each.group))].sort((a, b) => a - b);
  return (
    <span
      className={`group-mark ${groups.indexOf(step.group) % 2 === 1 || step.group_name === "after" ? "after" : ""}`}
    />
  );
}

function Before({ step }: { step: Step }) {
  const { family } = usePreferences();
  const parts = [
    step.charge_percent != null && `at ${step.charge_percent.toFixed(0)} %`,
    step.from_speed_mps != null && `from ${withUnit(step.from_speed_mps, "speed", family, 0)}`,
    step.wait_min ? `cool ${step.wait_min} min` : false,
  ].filter(Boolean);
  return parts.length ? parts.join(", ") : "–";
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
    <span className="row one-line tight">
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
      {step.state === "open" && (
        <Button
          size="small"
          type="text"
          title="Delete"
          onClick={() => actions.remove.mutate(step.id)}
          aria-label={`Delete ${name}`}
        >
          ✕
        </Button>
      )}
    </span>
  );
}

function AddRun({ day, add }: { day: Day; add: (group: number, direction: "out" | "back") => void }) {
  const groups = [...new Map(day.scheduled_runs.map((step) => [step.group, step.group_name])).entries()];
  const [group, setGroup] = useState(groups[0]?.[0] ?? 0);
  const [direction, setDirection] = useState<"out" | "back">("out");
  return (
    <div className="row above">
      <Select
        aria-label="Group of the added run"
        className="pick"
        value={group}
        onChange={setGroup}
        options={groups.map(([value, label]) => ({ value, label }))}
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
      <Button onClick={() => add(group, direction)}>Add a run</Button>
    </div>
  );
}
