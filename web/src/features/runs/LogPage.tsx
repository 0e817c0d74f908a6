import { Alert, Button, Modal } from "antd";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { Facts } from "../../shared/Facts";
import { dayAndTime } from "../../shared/dates";
import { When } from "../../shared/When";
import { Failed, Loading } from "../../shared/States";
import { useDelete } from "../../shared/useDelete";
import { StartLink } from "./StartLink";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import { HistorySheet } from "../history/HistorySheet";
import { AskDay } from "./AskDay";
import { EditRuns } from "./EditRuns";
import { useDateLog, useLog, useLogDeletion, type Log } from "./logs";
import { useRuns } from "./queries";

/** One log: what came of it, what was left out and why, and every way to mend it. */
export function LogPage() {
  const id = Number(useParams().id);
  const log = useLog(id);
  useTitle(log.data?.name);
  if (log.isPending) return <Loading what="the log" />;
  if (log.error) return <Failed error={log.error} retry={() => void log.refetch()} />;
  const { data } = log;
  return (
    <>
      <div className="page-head">
        <h1>{data.name}</h1>
        <span className="quiet">{data.date_known ? <When of={data} /> : "no date"}</span>
        <Acts log={data} />
      </div>
      <section className="sheet">
        <Facts
          wide
          rows={[
            ["Setup", data.setup_names.join(", ") || "–"],
            ["Fixes", `${data.fixes}, ${data.rate_hz.toFixed(0)} Hz`],
            ["Length", `${(data.duration_s / 60).toFixed(1)} min`],
            ["CAN log", data.can_log?.name ?? "none"],
            ["Stored", dayAndTime(data.imported_at)],
            ["By", data.imported_by],
          ]}
        />
      </section>
      {!data.date_known && <Dating log={data} />}
      <RunsOf log={data} />
      <LeftOut log={data} />
      <HistorySheet of={`runs.log:${data.id}`} />
    </>
  );
}

function Acts({ log }: { log: Log }) {
  const { person } = useSession();
  const [open, setOpen] = useState<"date" | "delete" | null>(null);
  const close = () => setOpen(null);
  return (
    <span className="push row">
      <Button href={`/api/v1/logs/${log.id}/original/`}>Download original</Button>
      {person?.may_write && (
        <>
          <EditRuns picked={[...log.run_ids]} done={close} />
          {log.date_known && <Button onClick={() => setOpen("date")}>Correct the date</Button>}
          <Button danger onClick={() => setOpen("delete")}>
            Delete
          </Button>
        </>
      )}
      <Modal title="Correct the date" open={open === "date"} onCancel={close} footer={null} destroyOnHidden>
        <Dating log={log} done={close} />
      </Modal>
      <DeleteDialog log={log} open={open === "delete"} close={close} />
    </span>
  );
}

function Dating({ log, done }: { log: Log; done?: () => void }) {
  const date = useDateLog(log.id);
  return (
    <section aria-label="Date" className={done ? "" : "sheet"}>
      <p>
        {log.date_known
          ? `Its clock shows ${log.start_utc.slice(11, 19)} at the first fix. Which day was it, and in which time zone?`
          : "This log has no date, so its runs don't count. Which day was it driven?"}
      </p>
      <AskDay done={(dating) => date.mutate(dating, { onSuccess: done })} busy={date.isPending} />
      {date.error && <Alert type="error" title={date.error.message} className="above" />}
    </section>
  );
}

function DeleteDialog({ log, open, close }: { log: Log; open: boolean; close: () => void }) {
  const deletion = useLogDeletion(log.id, open);
  const remove = useDelete("/api/v1/logs/{id}/", log.id);
  const navigate = useNavigate();
  return (
    <Modal
      title={`Delete ${log.name}?`}
      open={open}
      onCancel={close}
      okText="Delete"
      okButtonProps={{ danger: true, loading: remove.isPending, disabled: !deletion.data }}
      onOk={() => remove.mutate(undefined, { onSuccess: () => void navigate("/logs") })}
    >
      <p>{deletion.data ?? deletion.error?.message ?? "Reading what hangs on it…"}</p>
      {remove.error && <Alert type="error" title={remove.error.message} />}
    </Modal>
  );
}

function RunsOf({ log }: { log: Log }) {
  const runs = useRuns({ log: log.id, page_size: 200, sort: "start_utc" }, log.run_ids.length > 0);
  const untimed = log.untimed.map((each) => `A ${each.kind} run could not be timed: ${each.reason}`);
  return (
    <section className="sheet">
      <h2>Runs</h2>
      {log.run_ids.length === 0 && (
        <p>No standing start and no stop in this log: was the receiver on before the launch?</p>
      )}
      {runs.data && runs.data.results.length > 0 && (
        <DataTable
          rows={runs.data.results}
          rowKey={(run) => run.id}
          columns={[
            {
              title: "Start",
              value: (run) => <StartLink run={run} />,
            },
            { title: "Kind", value: (run) => run.kind },
            { title: "Setup", wrap: true, value: (run) => run.setup_name },
            {
              title: "Counts",
              value: (run) =>
                run.validity === "void" ? `void: ${run.void_reason}` : run.counts ? "yes" : "no",
            },
          ]}
        />
      )}
      {untimed.map((sentence) => (
        <p key={sentence}>{sentence}</p>
      ))}
    </section>
  );
}

function LeftOut({ log }: { log: Log }) {
  if (!log.rejected) return null;
  return (
    <section className="sheet">
      <h2>Lines left out: {log.rejected}</h2>
      <DataTable
        rows={log.rejections}
        rowKey={(each) => `${each.line} ${each.reason}`}
        columns={[
          { title: "Line", number: true, value: (each) => each.line },
          { title: "Why", wrap: true, value: (each) => each.reason },
        ]}
      />
      {log.rejected > log.rejections.length && (
        <p className="quiet">The first {log.rejections.length} are listed.</p>
      )}
    </section>
  );
}
