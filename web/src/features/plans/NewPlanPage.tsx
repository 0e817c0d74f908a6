import { Alert, Button, Form } from "antd";
import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { SaveError } from "../../shared/SaveError";
import { useMeasure, type Measure } from "../../shared/useMeasure";
import { useSettled } from "../../shared/useSettled";
import { useCars } from "../cars/queries";
import { useCourses } from "../courses/queries";
import { AdviceSheet } from "./AdviceSheet";
import { isSingle, mostGroups } from "./kinds";
import { PlanForm } from "./PlanForm";
import { useAdvice, usePlan, useSavePlan, type Plan, type PlanAsk } from "./queries";

const START: Partial<PlanAsk> = {
  kind: "groups",
  measure: "0-60 mph",
  clock: "rollout",
  difference_that_matters: 0.1,
  power: 0.8,
  can_alternate: true,
  order: "ABBA",
  both_directions: true,
  runs_per_group: 6,
  days_per_group: 2,
  low_charge_percent: 85,
  high_charge_percent: 96,
  low_battery_temp_c: 35,
  high_battery_temp_c: 48,
  minutes_per_run: 5,
  minutes_per_change: 0,
  cooling_min: 3,
  ladder_low_percent: 10,
  ladder_step_percent: 10,
  groups: [{ name: "before" }, { name: "after" }],
};

export function NewPlanPage() {
  useTitle("New plan");
  const { car: chosen } = usePreferences();
  const cars = useCars();
  const courses = useCourses();
  const [search] = useSearchParams();
  if (!cars.data || !courses.data) return <Loading what="cars and courses" />;
  if (cars.data.length === 0 || courses.data.length === 0) {
    return (
      <Nothing title="A plan needs a car and a course">
        <p>
          Add {cars.data.length === 0 ? "the car under Cars" : "the strip under Courses"} first, then come
          back.
        </p>
      </Nothing>
    );
  }
  const course = courses.data.find((each) => each.direction === "out") ?? courses.data[0];
  const asked = proposed(search.get("start"));
  return <PlanEditor start={{ ...START, car: chosen ?? cars.data[0]?.id, course: course?.id, ...asked }} />;
}

/** What a comparison proposes to run next; a mangled address proposes nothing. */
function proposed(text: string | null): Partial<PlanAsk> {
  try {
    return text ? (JSON.parse(text) as Partial<PlanAsk>) : {};
  } catch {
    return {};
  }
}

/** A saved plan's question and driving changed; the advice follows while it is typed. */
export function ChangePlanPage() {
  const { id } = useParams();
  const plan = usePlan(Number(id));
  if (plan.isPending) return <Loading what="the plan" />;
  if (plan.error) return <Failed error={plan.error} />;
  const fields = Object.keys(START) as (keyof typeof START & keyof Plan)[];
  const { car, course, question, groups } = plan.data;
  const kept = Object.fromEntries(fields.map((name) => [name, plan.data[name]]));
  const bare = groups.map((group) => ({ name: group.name, setup: group.setup }));
  return (
    <PlanEditor
      id={plan.data.id}
      revision={plan.data.revision}
      start={{ ...kept, question, car, course, groups: bare }}
    />
  );
}

interface EditorProps {
  id?: number;
  revision?: number;
  start: Partial<PlanAsk>;
}

function PlanEditor({ id, revision, start }: EditorProps) {
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [opened] = useState(revision);
  const [form] = Form.useForm<PlanAsk>();
  const [ask, setAsk] = useState<PlanAsk>({ question: "?", ...start } as PlanAsk);
  const measure = useMeasure(ask.measure);
  const advice = useAdvice(useSettled(onItsClock(ask, measure)));
  const save = useSavePlan(id);
  const navigate = useNavigate();
  const answer = advice.error ? undefined : advice.data;
  const saved = (plan: Plan) => void navigate(`/plans/${plan.id}`);
  return (
    <>
      <div className="page-head">
        <h1>{id === undefined ? "New test plan" : "Edit plan"}</h1>
        {id !== undefined && <span className="quiet">Days already planned stay as they are.</span>}
      </div>
      <div className="columns">
        <PlanForm
          form={form}
          start={start}
          changed={() => setAsk(asked(form, start))}
          saved={id !== undefined}
        />
        <div>
          {advice.error && <Alert type="warning" title={advice.error.message} className="below" />}
          {advice.isPending && !advice.error && (
            <p className="quiet" role="status">
              Working out how many runs it takes …
            </p>
          )}
          {answer && <AdviceSheet advice={answer} ask={ask} />}
          <SaveError save={save} done={saved} />
          <Button
            type="primary"
            size="large"
            loading={save.isPending}
            disabled={!answer?.strip.fits}
            onClick={() =>
              void form
                .validateFields()
                .then(() =>
                  save.mutate(
                    { ...onItsClock(asked(form, start), measure), revision: opened },
                    { onSuccess: saved },
                  ),
                )
            }
          >
            Save plan
          </Button>
        </div>
      </div>
    </>
  );
}

/** A question on a clock that its measure has: rollout where there is a choice and the chosen one does not fit. */
function onItsClock(ask: PlanAsk, measure: Measure | undefined): PlanAsk {
  const clocks = measure?.clocks ?? [];
  const chosen = ask.clock ?? "rollout";
  if (clocks.length === 0 || clocks.includes(chosen)) return { ...ask, clock: chosen };
  return { ...ask, clock: clocks.includes("rollout") ? "rollout" : clocks[0] };
}

/** What is typed, over what the form began with; tests of one group drop the second. */
function asked(form: ReturnType<typeof Form.useForm<PlanAsk>>[0], start: Partial<PlanAsk>): PlanAsk {
  const all = { ...start, ...form.getFieldsValue() } as PlanAsk;
  const single = isSingle(all.kind);
  const groups = (all.groups ?? []).slice(0, mostGroups(all.kind));
  const alternate = single || all.can_alternate !== false;
  return {
    ...all,
    question: all.question || "?",
    groups,
    can_alternate: alternate,
    days_per_group: alternate ? 1 : (all.days_per_group ?? 2),
  };
}
