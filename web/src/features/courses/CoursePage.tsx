import { Button, Modal } from "antd";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { useTitle } from "../../shared/useTitle";
import { Facts } from "../../shared/Facts";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading } from "../../shared/States";
import { fixed, withUnit } from "../../shared/units";
import { useSession } from "../accounts/session";
import { HistorySheet } from "../history/HistorySheet";
import { CourseForm } from "./CourseForm";
import { ProfileSheet } from "./ProfileSheet";
import { useCourse, type Course } from "./queries";
import { TrackSheet } from "./TrackSheet";

/** A course: whether it is long enough, its profile, map and details. */
export function CoursePage({ stripCheck }: { stripCheck: (course: number) => ReactNode }) {
  const { id } = useParams();
  const course = useCourse(Number(id));
  useTitle(course.data && `${course.data.name}, ${course.data.direction}`);
  const { person } = useSession();
  if (course.isPending) return <Loading what="the course" />;
  if (course.error) return <Failed error={course.error} retry={() => void course.refetch()} />;
  return (
    <>
      <div className="page-head">
        <h1>
          {course.data.name}, {course.data.direction}
        </h1>
        <span className="push row">
          <Link to={`/runs?course=${course.data.id}`}>Runs on this course</Link>
          {person?.may_write && <Acts course={course.data} />}
        </span>
      </div>
      {stripCheck(course.data.id)}
      <div className="columns even">
        <ProfileSheet course={course.data} mayWrite={person?.may_write === true} />
        <div>
          <TrackSheet course={course.data.id} />
          <Details course={course.data} />
          <HistorySheet of={`courses.course:${course.data.id}`} />
        </div>
      </div>
    </>
  );
}

function Acts({ course }: { course: Course }) {
  const [editing, setEditing] = useState(false);
  const remove = useDelete("/api/v1/courses/{id}/", course.id);
  const navigate = useNavigate();
  return (
    <>
      <Button onClick={() => setEditing(true)}>Edit course</Button>
      <Modal
        title="Edit course"
        open={editing}
        onCancel={() => setEditing(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <CourseForm
          course={course}
          done={() => setEditing(false)}
          beside={
            <DeleteButton
              name={`${course.name}, ${course.direction}`}
              remove={remove}
              done={() => void navigate("/courses")}
            />
          }
        />
      </Modal>
    </>
  );
}

function Details({ course }: { course: Course }) {
  const { family } = usePreferences();
  return (
    <section className="sheet">
      <h2>Details</h2>
      <Facts
        rows={[
          ["Length", withUnit(course.length_m, "distance", family, 0)],
          ["Runout", withUnit(course.runout_m, "distance", family, 0)],
          ["Heading", `${course.heading_deg}°`],
          ["Surface", course.surface ?? "–"],
          ["Elevation", withUnit(course.elevation_m, "distance", family, 0)],
          [
            "Mean slope",
            course.slope_percent == null ? "not surveyed" : `${fixed(course.slope_percent, 2)} %`,
          ],
          ["Time zone", course.time_zone ?? "UTC"],
          ["Permission", course.permission || "none recorded"],
          ["Access", course.access || "–"],
        ]}
      />
    </section>
  );
}
