import { Button } from "antd";
import { Link, useNavigate } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { useTitle } from "../../shared/useTitle";
import { Failed, Loading, Nothing } from "../../shared/States";
import { CLOCK_NAMES } from "../../shared/measures";
import { KeptVerdict } from "./KeptVerdict";
import { useComparisons } from "./queries";

export function ComparisonsPage() {
  useTitle("Comparisons");
  const comparisons = useComparisons();
  const navigate = useNavigate();
  if (comparisons.isPending) return <Loading what="the comparisons" />;
  if (comparisons.error) return <Failed error={comparisons.error} retry={() => void comparisons.refetch()} />;
  const make = (
    <span className="acts">
      <Link to="/reports">Reports</Link>
      <Button onClick={() => void navigate("/compare/quick")}>Quick compare</Button>
      <Button type="primary" onClick={() => void navigate("/compare/new")}>
        Compare groups
      </Button>
    </span>
  );
  return (
    <>
      <div className="page-head">
        <h1>Compare</h1>
        <span className="push">{comparisons.data.length > 0 && make}</span>
      </div>
      {comparisons.data.length === 0 ? (
        <Nothing title="No comparisons yet">
          <p>Choose the runs before and after a change. Coombe says whether the car became faster.</p>
          {make}
        </Nothing>
      ) : (
        <section className="sheet scroll">
          <DataTable
            rows={comparisons.data}
            rowKey={(each) => each.id}
            columns={[
              {
                title: "Title",
                wrap: true,
                value: (each) => <Link to={`/compare/${each.id}`}>{each.title}</Link>,
              },
              { title: "Result", value: (each) => <KeptVerdict row={each} /> },
              { title: "Measure", value: (each) => each.measure },
              { title: "Clock", value: (each) => CLOCK_NAMES[each.clock] },
              { title: "Saved by", value: (each) => each.created_by },
              { title: "Date", value: (each) => each.created_at.slice(0, 10) },
            ]}
          />
        </section>
      )}
    </>
  );
}
