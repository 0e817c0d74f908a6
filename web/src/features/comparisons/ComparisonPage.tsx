import { Alert, Button, Popconfirm } from "antd";
import { Suspense } from "react";
import { useNavigate, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { askPath, type Ask } from "./ask";
import { useComparison, useDeleteComparison, useKeep, type Saved } from "./queries";
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
    arms: data.arms,
    adjust: data.adjust,
    matters: data.matters,
    match: data.match,
  };
  return (
    <div className="one-page">
      <div className="page-head">
        <h1>{data.title}</h1>
        <span className="quiet">
          saved {data.created_at.slice(0, 10)} by {data.created_by}
        </span>
        <Acts id={id} ask={ask} />
      </div>
      {data.changes.length > 0 && <Changed comparison={data} />}
      <Suspense fallback={<Loading what="the charts" />}>
        <ResultSheet result={data.result} ask={ask} />
      </Suspense>
    </div>
  );
}

function Acts({ id, ask }: { id: number; ask: Ask }) {
  const remove = useDeleteComparison();
  const { person } = useSession();
  const navigate = useNavigate();
  return (
    <span className="push no-print acts">
      <Button onClick={() => void navigate(askPath(ask))}>Change the groups</Button>
      <Button onClick={() => window.print()}>Print</Button>
      <Button href={`/api/comparisons/${id}/as/csv/`}>CSV</Button>
      <Button href={`/api/comparisons/${id}/as/json/`}>JSON</Button>
      {person?.may_delete && (
        <Popconfirm
          title="Delete this comparison? Its runs stay."
          onConfirm={() => remove.mutate(id, { onSuccess: () => void navigate("/compare") })}
        >
          <Button danger>Delete</Button>
        </Popconfirm>
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
      style={{ marginBottom: 14 }}
      title={`Since it was saved: ${comparison.changes.join(" ")}`}
      action={
        person?.may_write && (
          <Button size="small" loading={keep.isPending} onClick={() => keep.mutate()}>
            Keep what it says now
          </Button>
        )
      }
    />
  );
}
