import { Button, Modal } from "antd";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { CourseForm } from "../courses/CourseForm";
import { useSaveCourse } from "../courses/queries";

/** A course made on the spot, with the heading that the logs show; in both directions, since runs may go back on it. */
export function NewCourse({ heading, done }: { heading?: number; done: (course: number) => void }) {
  const [open, setOpen] = useState(false);
  const other = useSaveCourse();
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)}>
        New course
      </Button>
      <Modal title="New course" open={open} onCancel={() => setOpen(false)} footer={null} destroyOnHidden>
        <CourseForm
          known={heading === undefined ? {} : { heading_deg: Math.round(heading) }}
          done={(made) => {
            done(made.id);
            setOpen(false);
            other.mutate(otherDirection(made));
          }}
        />
      </Modal>
    </>
  );
}

function otherDirection(course: Schemas["Course"]): Schemas["CourseRequest"] {
  return {
    ...course, // what only the server writes is left out there
    direction: course.direction === "back" ? "out" : "back",
    heading_deg: (course.heading_deg + 180) % 360,
    slope_percent: course.slope_percent == null ? null : -course.slope_percent,
    stations: [],
  };
}
