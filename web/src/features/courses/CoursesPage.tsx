import { Button, Modal } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { fixed, withUnit } from "../../shared/units";
import { useSession } from "../accounts/session";
import { useCourses } from "./queries";
import { CourseForm } from "./CourseForm";

export function CoursesPage() {
  useTitle("Courses");
  const courses = useCourses();
  const { person } = useSession();
  const { family } = usePreferences();
  const navigate = useNavigate();
  const [adding, setAdding] = useState(false);
  if (courses.isPending) return <Loading what="the courses" />;
  if (courses.error) return <Failed error={courses.error} retry={() => void courses.refetch()} />;
  const add = person?.may_write && (
    <Button type="primary" onClick={() => setAdding(true)}>
      Add a course
    </Button>
  );
  return (
    <>
      <div className="page-head">
        <h1>Courses</h1>
        <span className="push">{courses.data.length > 0 && add}</span>
      </div>
      {courses.data.length === 0 ? (
        <Nothing title="No courses yet">
          <p>
            A course is one direction of a strip. Its length, runout and slope decide what may be driven. Add
            one first.
          </p>
          {add}
        </Nothing>
      ) : (
        <section className="sheet scroll">
          <DataTable
            rows={courses.data}
            rowKey={(each) => each.id}
            columns={[
              {
                title: "Course",
                value: (each) => (
                  <Link to={`/courses/${each.id}`}>
                    {each.name}, {each.direction}
                  </Link>
                ),
              },
              {
                title: "Length",
                number: true,
                value: (each) => withUnit(each.length_m, "distance", family, 0),
              },
              {
                title: "Runout",
                number: true,
                value: (each) => withUnit(each.runout_m, "distance", family, 0),
              },
              {
                title: "Slope",
                number: true,
                value: (each) =>
                  each.slope_percent === null ? "not surveyed" : `${fixed(each.slope_percent, 2)} %`,
              },
              { title: "Surface", value: (each) => each.surface },
              { title: "Permission", wrap: true, value: (each) => each.permission || "none recorded" },
            ]}
          />
        </section>
      )}
      <Modal
        title="Add a course"
        open={adding}
        onCancel={() => setAdding(false)}
        footer={null}
        destroyOnHidden
        width={760}
      >
        <CourseForm done={(course) => void navigate(`/courses/${course.id}`)} />
      </Modal>
    </>
  );
}
