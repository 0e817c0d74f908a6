import { Button, Modal } from "antd";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { DataTable } from "../../shared/DataTable";
import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { CLOCK_NAMES } from "../../shared/measures";
import { HistorySheet } from "../history/HistorySheet";
import { AdviceSheet } from "./AdviceSheet";
import { kindName } from "./kinds";
import { usePlan, type Plan } from "./queries";

type DayForm = (plan: number) => ReactNode;

interface Handed {
  /** Plans a day. */
  dayForm: DayForm;
  /** Leads to what its runs say. */
  answer: (plan: Plan) => ReactNode;
}

/** A plan: what its runs can show, its days, its progress. */
export function PlanPage({ dayForm, answer }: Handed) {
  const { id } = useParams();
  const plan = usePlan(Number(id));
  useTitle(plan.data?.question);
  if (plan.isPending) return <Loading what="the plan" />;
  if (plan.error) return <Failed error={plan.error} retry={() => void plan.refetch()} />;
  return <PlanSheet plan={plan.data} dayForm={dayForm} answer={answer} />;
}

function PlanSheet({ plan, dayForm, answer }: Handed & { plan: Plan }) {
  const { person } = useSession();
  const [adding, setAdding] = useState(false);
  const navigate = useNavigate();
  const remove = useDelete("/api/v1/plans/{id}/", plan.id);
  const total = plan.advice.days.length;
  return (
    <>
      <div className="page-head">
        <h1>{plan.question}</h1>
        <span className="quiet">
          {plan.measure}, {CLOCK_NAMES[plan.clock ?? "rollout"]}
          {kindName(plan.kind) !== "groups" && `, ${kindName(plan.kind)}`}
        </span>
        <span className="push row">
          {answer(plan)}
          {person?.may_write && (
            <>
              <Button onClick={() => void navigate(`/plans/${plan.id}/change`)}>Edit plan</Button>
              <DeleteButton
                name="this plan"
                note="Its days go with it; runs stay."
                remove={remove}
                done={() => void navigate("/plans")}
              />
              {plan.days.length < total && (
                <Button type="primary" onClick={() => setAdding(true)}>
                  Plan day {plan.days.length + 1} of {total}
                </Button>
              )}
            </>
          )}
        </span>
      </div>
      <div className="columns">
        <div>
          <AdviceSheet advice={plan.advice} ask={plan} />
        </div>
        <div>
          <Days plan={plan} />
          <Progress plan={plan} />
          <HistorySheet of={`plans.plan:${plan.id}`} />
        </div>
      </div>
      <Modal
        title="Plan a day"
        open={adding}
        onCancel={() => setAdding(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        {dayForm(plan.id)}
      </Modal>
    </>
  );
}

function Days({ plan }: { plan: Plan }) {
  return (
    <section className="sheet">
      <h2>Days</h2>
      {plan.days.length === 0 && (
        <p>No days yet. Plan a day: choose when the first run is, and the timetable follows.</p>
      )}
      {plan.days.map((day) => (
        <p key={day.id}>
          <Link to={`/days/${day.id}`}>
            Day {day.part + 1}, {day.local_day}
          </Link>
          , {day.state}
        </p>
      ))}
    </section>
  );
}

function Progress({ plan }: { plan: Plan }) {
  return (
    <section className="sheet">
      <h2>Progress</h2>
      <DataTable
        rows={plan.progress}
        rowKey={(each) => each.group}
        columns={[
          { title: "Group", value: (each) => each.group },
          { title: "Driven", number: true, value: (each) => each.done },
          { title: "Open", number: true, value: (each) => each.open },
          { title: "Valid runs recorded", number: true, value: (each) => each.baseline },
        ]}
      />
      {plan.can_still_show && <p>{plan.can_still_show.sentence}</p>}
    </section>
  );
}
