import { Alert, Button } from "antd";
import { useNavigate, useParams } from "react-router";

import { DeleteButton } from "../../shared/DeleteButton";
import { RenameButton } from "../../shared/RenameButton";
import { useDelete } from "../../shared/useDelete";
import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { HistorySheet } from "../history/HistorySheet";
import { askPath, type Ask } from "./ask";
import { useComparison, useKeep, useRenameComparison, type Saved } from "./queries";
import { ResultSheet } from "./ResultSheet";

/** A saved comparison: one sheet, with what has changed since it was saved. */
export function ComparisonPage() {
  const id = Number(useParams().id);
  const comparison = useComparison(id);
  useTitle(comparison.data?.title);
  if (comparison.isPending) return <Loading what="the comparison" />;
  if (comparison.error) return <Failed error={comparison.error} retry={() => void comparison.refetch()} />;
  const { data } = comparison;
  const ask: Ask = {
    measure: data.measure,
    clock: data.clock,
    quantity: data.quantity,
    groups: data.groups,
    adjust: data.adjust,
    difference_that_matters: data.difference_that_matters,
    match: data.match,
  };
  return (
    <div className="one-page">
      <div className="page-head">
        <h1>{data.title}</h1>
        <span className="quiet">
          saved {data.created_at.slice(0, 10)} by {data.created_by}
        </span>
        <Acts id={id} ask={ask} title={data.title} />
      </div>
      {data.changes.length > 0 && <Changed comparison={data} />}
      <ResultSheet result={data.result} ask={ask} />
      <HistorySheet of={`comparisons.comparison:${id}`} />
    </div>
  );
}

function Acts({ id, ask, title }: { id: number; ask: Ask; title: string }) {
  const rename = useRenameComparison(id);
  const remove = useDelete("/api/v1/comparisons/{id}/", id);
  const { person } = useSession();
  const navigate = useNavigate();
  return (
    <span className="push no-print acts">
      <Button onClick={() => void navigate(askPath(ask))}>Edit groups</Button>
      <Button onClick={() => window.print()}>Print</Button>
      <Button href={`/api/v1/comparisons/${id}/export/csv/`}>CSV</Button>
      <Button href={`/api/v1/comparisons/${id}/export/json/`}>JSON</Button>
      <Button
        href={`/api/v1/comparisons/${id}/package/`}
        title="Runs, verdict and logs, for somebody else to work out again"
      >
        Package
      </Button>
      {person?.may_write && (
        <>
          <Button
            onClick={() => void navigate(`/reports?comparison=${id}&title=${encodeURIComponent(title)}`)}
          >
            Report
          </Button>
          <RenameButton field="title" name={title} most={160} save={rename} />
          <DeleteButton
            name="this comparison"
            note="Its runs stay."
            remove={remove}
            done={() => void navigate("/compare")}
          />
        </>
      )}
    </span>
  );
}

function Changed({ comparison }: { comparison: Saved }) {
  const keep = useKeep(comparison.id);
  const { person } = useSession();
  return (
    <Alert
      type="warning"
      className="below"
      title={`Since it was saved: ${comparison.changes.join(" ")}`}
      action={
        person?.may_write && (
          <Button size="small" loading={keep.isPending} onClick={() => keep.mutate()}>
            Save the new result
          </Button>
        )
      }
    />
  );
}
