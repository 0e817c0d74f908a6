import { Button, Modal } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { fixed, withUnit } from "../../shared/units";
import { useSession } from "../accounts/session";
import { useCourses } from "../cars/queries";
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
        <Nothing title="No course yet">
          <p>
            A course is a strip in one direction: its length, its run-off and its slope decide what may be
            driven.
          </p>
          {add}
        </Nothing>
      ) : (
        <section className="sheet scroll">
          <table className="plain">
            <thead>
              <tr>
                <th>Course</th>
                <th className="n">Length</th>
                <th className="n">Run-off</th>
                <th className="n">Slope</th>
                <th>Surface</th>
                <th>Permission</th>
              </tr>
            </thead>
            <tbody>
              {courses.data.map((each) => (
                <tr key={each.id}>
                  <td>
                    <Link to={`/courses/${each.id}`}>
                      {each.name}, {each.direction}
                    </Link>
                  </td>
                  <td className="n">{withUnit(each.length_m, "distance", family, 0)}</td>
                  <td className="n">{withUnit(each.run_off_m, "distance", family, 0)}</td>
                  <td className="n">
                    {each.slope_percent === null ? "not surveyed" : `${fixed(each.slope_percent, 2)} %`}
                  </td>
                  <td>{each.surface}</td>
                  <td>{each.permission || "none written down"}</td>
                </tr>
              ))}
            </tbody>
          </table>
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
