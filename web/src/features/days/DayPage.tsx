import { Button, Modal } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { ChecklistSheet } from "./ChecklistSheet";
import { DayForm } from "./DayForm";
import { NextStep } from "./NextStep";
import { OrderSheet } from "./OrderSheet";
import { useDay } from "./queries";
import { TimetableSheet } from "./TimetableSheet";

export function DayPage() {
  const { id } = useParams();
  const day = useDay(Number(id));
  useTitle(day.data && `${day.data.local_date}: ${day.data.question}`);
  const { person } = useSession();
  const [changing, setChanging] = useState(false);
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
        <span className="push" style={{ display: "flex", gap: 8 }}>
          <Link to={`/days/${data.id}/sheet`}>Day sheet</Link>
          <a href={`/api/days/${data.id}/calendar/`}>Calendar</a>
          {mayWrite && <Button onClick={() => setChanging(true)}>Change the day</Button>}
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
        <ChecklistSheet day={data} mayWrite={mayWrite} />
      </div>
      <Modal
        title="Change the day"
        open={changing}
        onCancel={() => setChanging(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <DayForm plan={data.plan} day={data} done={() => setChanging(false)} />
      </Modal>
    </>
  );
}
