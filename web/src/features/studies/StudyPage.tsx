import { Alert, Button, Select } from "antd";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";

import { DeleteButton } from "../../shared/DeleteButton";
import { RenameButton } from "../../shared/RenameButton";
import { Failed, Loading } from "../../shared/States";
import { useDelete } from "../../shared/useDelete";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import { HistorySheet } from "../history/HistorySheet";
import { askPath, together } from "./ask";
import { factsOf } from "./kinds";
import { useChangeStudy, useKeepStudy, useRenameStudy, useStudies, useStudy, type Study } from "./queries";
import { StudyAnswer } from "./StudyAnswer";
import { StudyRuns } from "./StudyRuns";

/** A saved study, computed anew, with what has changed since it was saved. */
export function StudyPage() {
  const id = Number(useParams().id);
  const study = useStudy(id);
  useTitle(study.data?.title);
  if (study.isPending) return <Loading what="the study" />;
  if (study.error) return <Failed error={study.error} retry={() => void study.refetch()} />;
  return <Opened study={study.data} />;
}

function Opened({ study }: { study: Study }) {
  const change = useChangeStudy(study.id);
  const { person } = useSession();
  const leftOut = study.left_out ?? [];
  const save = (rows: typeof leftOut) => change.mutate({ left_out: rows, revision: study.revision });
  const edits = person?.may_write
    ? {
        leaveOut: (run: number, reason: string) => save([...leftOut, { run, reason }]),
        takeIn: (run: number) => save(leftOut.filter((row) => row.run !== run)),
      }
    : {};
  return (
    <>
      <div className="page-head">
        <h1>{study.title}</h1>
        <span className="quiet">
          {factsOf(study.kind)?.name}
          {study.measure && `, ${study.measure}`}, saved {study.created_at.slice(0, 10)} by {study.created_by}
        </span>
        <Acts study={study} />
      </div>
      {study.changes.length > 0 && <Changed study={study} />}
      {change.error && <Alert type="error" className="below" title={change.error.message} />}
      <StudyAnswer result={study.result} />
      <StudyRuns
        result={study.result}
        names={(study.series ?? []).map((series) => series.name)}
        distance={/-0 /.test(study.measure ?? "")}
        {...edits}
      />
      <HistorySheet of={`studies.study:${study.id}`} />
    </>
  );
}

function Acts({ study }: { study: Study }) {
  const rename = useRenameStudy(study.id, study.revision ?? 0);
  const remove = useDelete("/api/v1/studies/{id}/", study.id);
  const { person } = useSession();
  const navigate = useNavigate();
  return (
    <span className="push no-print acts">
      <Button onClick={() => void navigate(askPath(study))}>Change what it takes</Button>
      <LayOver study={study} />
      <Button onClick={() => window.print()}>Print</Button>
      <Button href={`/api/v1/studies/${study.id}/export/csv/`}>CSV</Button>
      <Button href={`/api/v1/studies/${study.id}/export/json/`}>JSON</Button>
      {person?.may_write && (
        <>
          <Button
            onClick={() =>
              void navigate(`/reports?study=${study.id}&title=${encodeURIComponent(study.title)}`)
            }
          >
            Report
          </Button>
          <RenameButton field="title" name={study.title} most={160} save={rename} />
          <DeleteButton
            name="this study"
            note="Its runs stay."
            remove={remove}
            done={() => void navigate("/studies")}
          />
        </>
      )}
    </span>
  );
}

/** Another saved study of the kind laid over this one, as a new study. */
function LayOver({ study }: { study: Study }) {
  const studies = useStudies().data ?? [];
  const others = studies.filter(({ id, kind }) => id !== study.id && kind === study.kind);
  const [chosen, choose] = useState<number>();
  const other = useStudy(chosen);
  const navigate = useNavigate();
  useEffect(() => {
    if (other.data) void navigate(askPath(together(study, other.data)));
  }, [other.data, study, navigate]);
  if (study.kind === "laps" || others.length === 0) return null;
  return (
    <Select
      aria-label="Lay another study over it"
      className="lay-over"
      placeholder="Lay over it …"
      popupMatchSelectWidth={false}
      loading={other.isFetching}
      value={chosen ?? null}
      options={others.map(({ id, title }) => ({ value: id, label: title }))}
      onChange={choose}
    />
  );
}

function Changed({ study }: { study: Study }) {
  const keep = useKeepStudy(study.id);
  const { person } = useSession();
  return (
    <Alert
      type="warning"
      className="below"
      title={`Since it was saved: ${study.changes.join(" ")}`}
      action={
        person?.may_write && (
          <Button size="small" className="no-print" loading={keep.isPending} onClick={() => keep.mutate()}>
            Save the new result
          </Button>
        )
      }
    />
  );
}
