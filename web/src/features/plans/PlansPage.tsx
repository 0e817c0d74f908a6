import { Button } from "antd";
import { Link, useNavigate } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { useSession } from "../accounts/session";
import type { Schemas } from "../../api/client";
import { usePlans } from "./queries";

export function PlansPage() {
  useTitle("Plans");
  const { car } = usePreferences();
  const plans = usePlans(car);
  const { person } = useSession();
  const navigate = useNavigate();
  if (plans.isPending) return <Loading what="the plans" />;
  if (plans.error) return <Failed error={plans.error} retry={() => void plans.refetch()} />;
  const ask = person?.may_write && (
    <Button type="primary" onClick={() => void navigate("/plans/new")}>
      Ask a question
    </Button>
  );
  return (
    <>
      <div className="page-head">
        <h1>Plan</h1>
        <span className="push">{plans.data.length > 0 && ask}</span>
      </div>
      {plans.data.length === 0 ? (
        <Nothing title="No question yet">
          <p>
            Ask what the test is to answer, and what difference would matter: Coombe says how many runs that
            takes, in which order, and when to plug in.
          </p>
          {ask}
        </Nothing>
      ) : (
        <section className="sheet scroll">
          <table className="plain">
            <thead>
              <tr>
                <th>Question</th>
                <th>Car</th>
                <th>Course</th>
                <th>Measure</th>
                <th>Groups</th>
                <th className="n">Runs per group</th>
                <th>Days</th>
              </tr>
            </thead>
            <tbody>
              {plans.data.map((each) => (
                <PlanRow key={each.id} plan={each} />
              ))}
            </tbody>
          </table>
        </section>
      )}
    </>
  );
}

function PlanRow({ plan }: { plan: Schemas["PlanRow"] }) {
  return (
    <tr>
      <td style={{ whiteSpace: "normal" }}>
        <Link to={`/plans/${plan.id}`}>{plan.question}</Link>
      </td>
      <td>{plan.car_name}</td>
      <td>{plan.course_name}</td>
      <td>{plan.measure}</td>
      <td>{plan.arms.map((arm) => arm.name).join(" | ")}</td>
      <td className="n">{plan.runs_per_arm}</td>
      <td>
        {plan.days.length === 0
          ? "none laid out"
          : plan.days.map((day) => (
              <div key={day.id}>
                <Link to={`/days/${day.id}`}>{day.first_run_at.slice(0, 10)}</Link>, {day.state}
              </div>
            ))}
      </td>
    </tr>
  );
}
