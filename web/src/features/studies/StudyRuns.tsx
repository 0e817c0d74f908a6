import { Input, Modal } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { Measured } from "../../shared/Measured";
import { When } from "../../shared/When";
import { usePreferences } from "../../shared/preferences";
import { digitsFor, unitOf } from "../../shared/units";

import type { StudyResult } from "./queries";

type StudiedRun = StudyResult["runs"][number];

interface Props {
  result: StudyResult;
  names: readonly string[];
  /** Whether distances are looked at. */
  distance: boolean;
  leaveOut?: (run: number, reason: string) => void;
  takeIn?: (run: number) => void;
}

/** Every run that the rules picked: what it says, or why it does not count. */
export function StudyRuns({ result, names, distance, leaveOut, takeIn }: Props) {
  const { family } = usePreferences();
  const [asking, setAsking] = useState<number | null>(null);
  const [reason, setReason] = useState("");
  if (result.runs.length === 0) return null;
  const unit = unitOf(distance ? "distance" : "time", family);
  const counting = result.runs.filter((run) => !run.dropped).length;
  const close = () => {
    setAsking(null);
    setReason("");
  };
  const act = (run: StudiedRun) => {
    if (run.dropped.startsWith("left out") && takeIn)
      return (
        <button type="button" className="as-link no-print" onClick={() => takeIn(run.id)}>
          Take in again
        </button>
      );
    if (!run.dropped && leaveOut)
      return (
        <button
          type="button"
          className="as-link no-print"
          onClick={() => setAsking(run.id)}
          aria-label={`Leave out run ${run.id}`}
        >
          Leave out
        </button>
      );
    return null;
  };
  return (
    <section className="sheet scroll">
      <h2>
        Runs <span className="label">{`${counting} of ${result.runs.length} count`}</span>
      </h2>
      <DataTable
        label="Runs"
        rows={result.runs}
        rowKey={(run) => run.id}
        rowClass={(run) => (run.dropped ? "dropped" : "")}
        columns={[
          {
            title: "Run",
            value: (run) => (
              <Link to={`/runs/${run.id}`}>
                <When of={run} />
              </Link>
            ),
          },
          names.length > 1 && { title: "Series", value: (run) => names[run.series] },
          { title: "Setup", wrap: true, value: (run) => run.setup_name },
          {
            title: unit.name,
            number: true,
            value: (run) => (
              <Measured
                value={run.value === null ? null : run.value / unit.factor}
                u95={run.u95 === null ? null : run.u95 / unit.factor}
                digits={digitsFor(run.u95 === null ? null : run.u95 / unit.factor, unit.digits)}
              />
            ),
          },
          { title: "Does not count because", wrap: true, value: (run) => run.dropped || "–" },
          Boolean(leaveOut ?? takeIn) && { title: "", value: act },
        ]}
      />
      <Modal
        title="Leave this run out"
        open={asking !== null}
        onCancel={close}
        okText="Leave out"
        okButtonProps={{ disabled: !reason.trim() }}
        onOk={() => {
          if (asking !== null) leaveOut?.(asking, reason.trim());
          close();
        }}
      >
        <Input
          aria-label="Reason"
          placeholder="Reason, such as: wheel spin"
          maxLength={200}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
      </Modal>
    </section>
  );
}
