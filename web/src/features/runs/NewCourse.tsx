import { Button, Modal } from "antd";
import { useState } from "react";

import { CourseForm } from "../courses/CourseForm";

/** A course made on the spot, with the heading that the logs show. */
export function NewCourse({ heading, done }: { heading?: number; done: (course: number) => void }) {
  const [open, setOpen] = useState(false);
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
          }}
        />
      </Modal>
    </>
  );
}
