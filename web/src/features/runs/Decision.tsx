import { Alert, Button, Input, Modal, Radio } from "antd";
import { useMemo, useState } from "react";

import { useKeys } from "../../shared/shortcuts";
import { useSession } from "../accounts/session";
import { useRunChanges, type Run } from "./queries";
import { VOID_REASONS } from "./VoidFields";

/** Whether the run counts, and the two ways to decide it. */
export function Decision({ run }: { run: Run }) {
  const { person } = useSession();
  const { voided, kept } = useRunChanges(run.id);
  const [asking, setAsking] = useState(false);
  const isVoid = run.validity === "void";
  const may = person?.may_write === true;
  const keep = kept.mutate;
  const keys = useMemo(
    () => (may ? { k: () => keep(run.revision), v: () => setAsking(true) } : {}),
    [may, keep, run.revision],
  );
  useKeys(keys as Record<string, () => void>);
  return (
    <span className="row">
      <strong>
        {isVoid ? `Void: ${run.void_reason}` : run.counts ? "Counts" : "Not complete; does not count"}
      </strong>
      {isVoid && run.void_note && <span className="quiet">{run.void_note}</span>}
      {may && isVoid && <Button onClick={() => keep(run.revision)}>Keep this run</Button>}
      {may && !isVoid && <Button onClick={() => setAsking(true)}>Void this run</Button>}
      {kept.error && <Alert type="error" title={kept.error.message} />}
      <VoidDialog
        open={asking}
        close={() => setAsking(false)}
        error={voided.error}
        submit={(reason, note) =>
          voided.mutate({ revision: run.revision, reason, note }, { onSuccess: () => setAsking(false) })
        }
      />
    </span>
  );
}

interface DialogProps {
  open: boolean;
  close: () => void;
  error: Error | null;
  submit: (reason: (typeof VOID_REASONS)[number], note: string) => void;
}

function VoidDialog({ open, close, error, submit }: DialogProps) {
  const [reason, setReason] = useState<(typeof VOID_REASONS)[number]>("jumped");
  const [note, setNote] = useState("");
  return (
    <Modal
      title="Void this run"
      open={open}
      onCancel={close}
      onOk={() => submit(reason, note)}
      okText="Void run"
      destroyOnHidden
    >
      <p>A void run is stored but excluded from every statistic. You can undo this.</p>
      <Radio.Group
        vertical
        aria-label="Reason"
        value={reason}
        onChange={(event) => setReason(event.target.value as (typeof VOID_REASONS)[number])}
        options={VOID_REASONS.map((value) => ({ value, label: value }))}
      />
      <label className="block above">
        Note
        <Input value={note} maxLength={300} onChange={(event) => setNote(event.target.value)} />
      </label>
      {error && <Alert type="error" title={error.message} className="above" />}
    </Modal>
  );
}
