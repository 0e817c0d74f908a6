import { Button } from "antd";
import { Link, useNavigate } from "react-router";

import { DataTable, type Column } from "../../shared/DataTable";
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
      New plan
    </Button>
  );
  return (
    <>
      <div className="page-head">
        <h1>Plan</h1>
        <span className="push">{plans.data.length > 0 && ask}</span>
      </div>
      {plans.data.length === 0 ? (
        <Nothing title="No plans yet">
          <p>
            Enter the question and the difference that matters. Coombe says how many runs that takes, in which
            order, and when to plug in.
          </p>
          {ask}
        </Nothing>
      ) : (
        <section className="sheet scroll">
          <DataTable rows={plans.data} rowKey={(plan) => plan.id} columns={COLUMNS} />
        </section>
      )}
    </>
  );
}

const COLUMNS: Column<Schemas["PlanRow"]>[] = [
  { title: "Question", wrap: true, value: (plan) => <Link to={`/plans/${plan.id}`}>{plan.question}</Link> },
  {
    title: "Driven",
    number: true,
    value: (plan) => (plan.done + plan.open > 0 ? `${plan.done} of ${plan.done + plan.open}` : "–"),
  },
  {
    title: "Days",
    value: (plan) =>
      plan.days.length === 0
        ? "none planned"
        : plan.days.map((day) => (
            <div key={day.id}>
              <Link to={`/days/${day.id}`}>{day.local_day}</Link>, {day.state}
            </div>
          )),
  },
  { title: "Car", value: (plan) => plan.car_name },
  { title: "Course", value: (plan) => plan.course_name },
  { title: "Measure", value: (plan) => plan.measure },
  { title: "Groups", value: (plan) => plan.groups.map((group) => group.name).join(" | ") },
  { title: "Runs per group", number: true, value: (plan) => plan.runs_per_group },
];
