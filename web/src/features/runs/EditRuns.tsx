import { Button, Modal } from "antd";
import { useState } from "react";

import { Loading } from "../../shared/States";
import { whenOpened } from "../../shared/whenOpened";

// The form is large, and most looks at the list end without it.
const EditRunsForm = whenOpened(
  () => import("./EditRunsForm").then(({ EditRunsForm }) => EditRunsForm),
  () => <Loading what="the form" />,
);

interface Props {
  picked: number[];
  done: () => void;
}

/** Changes many runs at once: only the fields that are touched, after a look at what becomes of each run. */
export function EditRuns({ picked, done }: Props) {
  const [open, setOpen] = useState(false);
  if (!picked.length) return null;
  const name = picked.length === 1 ? "Edit 1 run" : `Edit ${picked.length} runs`;
  return (
    <>
      <Button onClick={() => setOpen(true)}>{name}</Button>
      <Modal
        title={name}
        open={open}
        onCancel={() => setOpen(false)}
        footer={null}
        destroyOnHidden
        width={860}
        className="tall"
      >
        <EditRunsForm
          picked={picked}
          done={() => {
            setOpen(false);
            done();
          }}
        />
      </Modal>
    </>
  );
}
