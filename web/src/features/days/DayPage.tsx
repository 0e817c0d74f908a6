import { Button, Modal } from "antd";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { HistorySheet } from "../history/HistorySheet";
import { ChecklistSheet } from "./ChecklistSheet";
import { DayForm } from "./DayForm";
import { NextStep } from "./NextStep";
import { OrderSheet } from "./OrderSheet";
import { useDay } from "./queries";
import { TimetableSheet } from "./TimetableSheet";

export function DayPage({ answer }: { answer: (plan: number) => ReactNode }) {
  const { id } = useParams();
  const day = useDay(Number(id));
  useTitle(day.data && `${day.data.local_date}: ${day.data.question}`);
  const { person } = useSession();
  const [changing, setChanging] = useState(false);
  const remove = useDelete("/api/v1/test-days/{id}/", Number(id));
  const navigate = useNavigate();
  if (day.isPending) return <Loading what="the day" />;
  if (day.error) return <Failed error={day.error} retry={() => void day.refetch()} />;
  const { data } = day;
  const mayWrite = person?.may_write === true;
  return (
    <>
      <div className="page-head">
        <h1>
          <Link to={`/plans/${data.plan}`}>{data.question}</Link>
        </h1>
        <span className="quiet">
          {data.local_date}, {data.car_name} on {data.course_name}, {data.state}
        </span>
        <span className="push row">
          {answer(data.plan)}
          <Link to={`/days/${data.id}/sheet`}>Day sheet</Link>
          <a href={`/api/v1/test-days/${data.id}/calendar/`}>Calendar</a>
          {mayWrite && <Button onClick={() => setChanging(true)}>Edit day</Button>}
        </span>
      </div>
      <section className="sheet" aria-label="Next">
        <NextStep day={data} mayWrite={mayWrite} />
      </section>
      <div className="columns">
        <div>
          <OrderSheet day={data} mayWrite={mayWrite} />
          <TimetableSheet timetable={data.timetable} zone={data.time_zone} />
        </div>
        <div>
          <ChecklistSheet day={data} mayWrite={mayWrite} />
          <HistorySheet of={`days.testday:${data.id}`} />
        </div>
      </div>
      <Modal
        title="Edit day"
        open={changing}
        onCancel={() => setChanging(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <DayForm
          plan={data.plan}
          day={data}
          done={() => setChanging(false)}
          beside={
            <DeleteButton
              name="this day"
              note="Its order and checklist go with it; runs stay."
              remove={remove}
              done={() => void navigate(`/plans/${data.plan}`)}
            />
          }
        />
      </Modal>
    </>
  );
}
