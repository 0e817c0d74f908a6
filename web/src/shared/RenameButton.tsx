import { Button, Modal } from "antd";
import { useState } from "react";

import { EntryForm } from "./EntryForm";
import { TextField } from "./fields";
import type { Save } from "./SaveError";

interface Props<Field extends string, Saved> {
  /** What the server calls the name. */
  field: Field;
  name: string;
  most: number;
  save: Save<Record<Field, string>, Saved> & { isPending: boolean };
  small?: boolean;
}

/** Gives one thing another name. */
export function RenameButton<Field extends string, Saved>(props: Props<Field, Saved>) {
  const { field, name, most, save, small = false } = props;
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size={small ? "small" : "middle"} onClick={() => setOpen(true)} aria-label={`Rename ${name}`}>
        Rename
      </Button>
      <Modal title="Rename" open={open} onCancel={() => setOpen(false)} footer={null} destroyOnHidden>
        <EntryForm
          first={{ [field]: name }}
          save={save}
          sent={(values: Record<Field, string>) => values}
          done={() => setOpen(false)}
          submit="Save"
        >
          <TextField name={field} label="Name" required="Enter a name" most={most} />
        </EntryForm>
      </Modal>
    </>
  );
}
