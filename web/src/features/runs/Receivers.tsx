import { Button, Modal } from "antd";
import { useState } from "react";

import { DataTable } from "../../shared/DataTable";
import { DeleteButton } from "../../shared/DeleteButton";
import { EntryForm } from "../../shared/EntryForm";
import { NumberField, TextField } from "../../shared/fields";
import { useDelete } from "../../shared/useDelete";
import { useSession } from "../accounts/session";
import { useReceivers } from "../../shared/useReceivers";
import { useSaveReceiver, type Receiver } from "./receivers";

/** What a log does not show of the receiver that wrote it; runs name it in their conditions. */
export function Receivers() {
  const receivers = useReceivers().data ?? [];
  const { person } = useSession();
  const [editing, setEditing] = useState<Receiver | "new" | null>(null);
  const writes = person?.may_write === true;
  return (
    <section className="sheet" aria-label="Receivers">
      <div className="row">
        {writes && (
          <Button className="push" onClick={() => setEditing("new")}>
            Add a receiver
          </Button>
        )}
      </div>
      <p className="quiet">
        A filter that smooths speed does not show in a log: it makes every start and every stop look soft.
        State it, also where it is 0: runs are corrected for it, and their ± is smaller.
      </p>
      {receivers.length > 0 && (
        <DataTable
          rows={receivers}
          rowKey={(receiver) => receiver.id}
          columns={[
            { title: "Receiver", wrap: true, value: (receiver) => receiver.name },
            { title: "Firmware", value: (receiver) => receiver.firmware || "–" },
            { title: "Smooths over, s", number: true, value: smoothing },
            { title: "Late by, s", number: true, value: (receiver) => receiver.latency_s ?? "not known" },
            { title: "Known from", wrap: true, value: (receiver) => receiver.source || "–" },
            { title: "Runs", number: true, value: (receiver) => receiver.run_count },
            {
              title: "",
              value: (receiver) => writes && <Mend receiver={receiver} edit={() => setEditing(receiver)} />,
            },
          ]}
        />
      )}
      <Modal
        title={editing === "new" ? "Add a receiver" : "Edit receiver"}
        open={editing !== null}
        onCancel={() => setEditing(null)}
        footer={null}
        destroyOnHidden
        width={640}
      >
        <ReceiverForm
          {...(editing && editing !== "new" ? { receiver: editing } : {})}
          done={() => setEditing(null)}
        />
      </Modal>
    </section>
  );
}

function smoothing({ smoothing_s, smoothing_u95_s }: Receiver) {
  if (smoothing_s == null) return "not known";
  return smoothing_u95_s == null ? `${smoothing_s}` : `${smoothing_s} ± ${smoothing_u95_s}`;
}

function Mend({ receiver, edit }: { receiver: Receiver; edit: () => void }) {
  const remove = useDelete("/api/v1/receivers/{id}/", receiver.id);
  return (
    <span className="row one-line tight">
      <Button size="small" onClick={edit} aria-label={`Edit receiver ${receiver.name}`}>
        Edit
      </Button>
      <DeleteButton
        small
        name={`receiver ${receiver.name}`}
        note="Its runs stay, and are timed again without what was known of it."
        remove={remove}
      />
    </span>
  );
}

function ReceiverForm({ receiver, done }: { receiver?: Receiver; done: () => void }) {
  const save = useSaveReceiver(receiver?.id);
  const [opened] = useState(receiver);
  return (
    <EntryForm<Receiver, Parameters<typeof save.mutate>[0], Receiver>
      first={opened ?? {}}
      save={save}
      sent={(values) => ({ ...values, revision: opened?.revision })}
      done={done}
      submit={opened ? "Save" : "Add receiver"}
    >
      <div className="form-grid">
        <TextField name="name" label="Name, as runs have it" required="Enter a name" most={80} />
        <TextField name="firmware" label="Firmware" most={80} />
        <NumberField
          name="smoothing_s"
          label="Smooths speed over, s (0: not at all)"
          min={0}
          max={1}
          step={0.01}
        />
        <NumberField name="smoothing_u95_s" label="Known within ±, s" min={0} max={1} step={0.01} />
        <NumberField name="latency_s" label="Its times are late by, s" min={-2} max={2} step={0.01} />
        <TextField name="source" label="Known from" most={200} placeholder="its manual, a pair of logs" />
      </div>
      <TextField name="notes" label="Notes" rows={2} most={2000} />
    </EntryForm>
  );
}
