import { Button, Popconfirm } from "antd";
import { Suspense } from "react";
import { useNavigate, useParams } from "react-router";

import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { useComparison, useDeleteComparison } from "./queries";
import { VerdictSheet } from "./VerdictSheet";

/** A saved comparison: one sheet with where the time went in it. */
export function ComparisonPage() {
  const id = Number(useParams().id);
  const comparison = useComparison(id);
  const remove = useDeleteComparison();
  const { person } = useSession();
  const navigate = useNavigate();
  if (comparison.isPending) return <Loading what="the comparison" />;
  if (comparison.error) return <Failed error={comparison.error} retry={() => void comparison.refetch()} />;
  const { data } = comparison;
  const asked = new URLSearchParams({
    measure: data.measure,
    clock: data.clock,
    quantity: data.quantity ?? "time",
    before: data.before.join(","),
    after: data.after.join(","),
  });
  return (
    <>
      <div className="page-head">
        <h1>{data.title}</h1>
        <span className="push" style={{ display: "flex", gap: 8 }}>
          <Button onClick={() => void navigate(`/compare/new?${asked}`)}>Change the arms</Button>
          {person?.may_delete && (
            <Popconfirm
              title="Delete this comparison? Its runs stay."
              onConfirm={() => remove.mutate(id, { onSuccess: () => void navigate("/compare") })}
            >
              <Button danger>Delete</Button>
            </Popconfirm>
          )}
        </span>
      </div>
      <Suspense fallback={<Loading what="the charts" />}>
        <VerdictSheet result={data.result} />
      </Suspense>
    </>
  );
}
