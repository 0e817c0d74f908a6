import { Button } from "antd";
import { Link, useNavigate } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { Failed, Loading, Nothing } from "../../shared/States";
import { CLOCK_NAMES } from "../runs/measures";
import { useComparisons } from "./queries";

export function ComparisonsPage() {
  useTitle("Comparisons");
  const comparisons = useComparisons();
  const navigate = useNavigate();
  if (comparisons.isPending) return <Loading what="the comparisons" />;
  if (comparisons.error) return <Failed error={comparisons.error} retry={() => void comparisons.refetch()} />;
  const make = (
    <Button type="primary" onClick={() => void navigate("/compare/new")}>
      Compare groups
    </Button>
  );
  return (
    <>
      <div className="page-head">
        <h1>Compare</h1>
        <span className="push">{comparisons.data.length > 0 && make}</span>
      </div>
      {comparisons.data.length === 0 ? (
        <Nothing title="No saved comparison">
          <p>
            Choose the runs before a change and the runs after it: Coombe says whether it made the car faster.
          </p>
          {make}
        </Nothing>
      ) : (
        <section className="sheet scroll">
          <table className="plain">
            <thead>
              <tr>
                <th>Question</th>
                <th>Measure</th>
                <th>Clock</th>
                <th>Said</th>
                <th>Asked by</th>
                <th>On</th>
              </tr>
            </thead>
            <tbody>
              {comparisons.data.map((each) => (
                <tr key={each.id}>
                  <td>
                    <Link to={`/compare/${each.id}`}>{each.title}</Link>
                  </td>
                  <td>{each.measure}</td>
                  <td>{CLOCK_NAMES[each.clock]}</td>
                  <td>{each.said || "–"}</td>
                  <td>{each.created_by}</td>
                  <td>{each.created_at.slice(0, 10)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </>
  );
}
