import { Button, Modal } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { DayForm } from "../days/DayForm";
import { CLOCK_NAMES } from "../runs/measures";
import { AdviceSheet } from "./AdviceSheet";
import { useAmount } from "./amount";
import { kindName } from "./kinds";
import { usePlan, type Plan } from "./queries";

export function PlanPage() {
  const { id } = useParams();
  const plan = usePlan(Number(id));
  useTitle(plan.data?.question);
  if (plan.isPending) return <Loading what="the plan" />;
  if (plan.error) return <Failed error={plan.error} retry={() => void plan.refetch()} />;
  return <PlanSheet plan={plan.data} />;
}

function PlanSheet({ plan }: { plan: Plan }) {
  const { person } = useSession();
  const [adding, setAdding] = useState(false);
  const navigate = useNavigate();
  const total = plan.advice.days.length;
  return (
    <>
      <div className="page-head">
        <h1>{plan.question}</h1>
        <span className="quiet">
          {plan.measure}, {CLOCK_NAMES[plan.clock ?? "rollout"]}, {kindName(plan.kind)}
        </span>
        {person?.may_write && (
          <span className="push" style={{ display: "flex", gap: 8 }}>
            <Button onClick={() => void navigate(`/plans/${plan.id}/change`)}>Change the plan</Button>
            {plan.days.length < total && (
              <Button type="primary" onClick={() => setAdding(true)}>
                Lay out day {plan.days.length + 1} of {total}
              </Button>
            )}
          </span>
        )}
      </div>
      <div className="columns">
        <div>
          <AdviceSheet advice={plan.advice} ask={plan} />
        </div>
        <div>
          <Days plan={plan} />
          <Progress plan={plan} />
        </div>
      </div>
      <Modal
        title="Lay out a day"
        open={adding}
        onCancel={() => setAdding(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <DayForm plan={plan.id} done={(day) => void navigate(`/days/${day.id}`)} />
      </Modal>
    </>
  );
}

function Days({ plan }: { plan: Plan }) {
  return (
    <section className="sheet">
      <h2>Days</h2>
      {plan.days.length === 0 && (
        <p>None laid out: say when the first run is to be, and the timetable follows.</p>
      )}
      {plan.days.map((day) => (
        <p key={day.id}>
          <Link to={`/days/${day.id}`}>
            Day {day.part + 1}, {day.first_run_at.slice(0, 10)}
          </Link>
          , {day.state}
        </p>
      ))}
    </section>
  );
}

function Progress({ plan }: { plan: Plan }) {
  const amount = useAmount(plan.measure ?? "");
  return (
    <section className="sheet">
      <h2>How far it has come</h2>
      <div className="scroll">
        <table className="plain">
          <thead>
            <tr>
              <th>Group</th>
              <th className="n">Driven</th>
              <th className="n">Open</th>
              <th className="n">Valid in the log</th>
            </tr>
          </thead>
          <tbody>
            {plan.progress.map((each) => (
              <tr key={each.arm}>
                <td>{each.arm}</td>
                <td className="n">{each.done}</td>
                <td className="n">{each.open}</td>
                <td className="n">{each.baseline}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {plan.can_still_show !== null && (
        <p>
          Driven and open runs together still show {amount(plan.can_still_show)};{" "}
          {amount(plan.smallest_difference)} matter.
        </p>
      )}
    </section>
  );
}
