import { Link } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { Failed, Loading } from "../../shared/States";
import { useTitle } from "../../shared/useTitle";
import { KINDS, factsOf } from "./kinds";
import { useStudies } from "./queries";

/** What can be asked of more than two groups, with a picture each; and the studies that were saved. */
export function StudiesPage() {
  useTitle("Studies");
  const studies = useStudies();
  if (studies.isPending) return <Loading what="the studies" />;
  if (studies.error) return <Failed error={studies.error} retry={() => void studies.refetch()} />;
  return (
    <>
      <div className="page-head">
        <h1>Studies</h1>
        <span className="push row">
          <Link to="/all-cars">All cars in one table</Link>
          <Link to="/studies/own-measures">Own measures</Link>
        </span>
      </div>
      <ul className="gallery" aria-label="Kinds of studies">
        {KINDS.map(({ kind, name, answers }) => (
          <li key={kind}>
            <Link to={`/studies/new?kind=${encodeURIComponent(kind)}`}>
              <img
                src={`/static/studies/${kind.replace(" ", "-")}.svg`}
                alt=""
                width={220}
                height={110}
                loading="lazy"
              />
              <strong>{name}</strong>
            </Link>
            <span className="quiet">{answers}</span>
          </li>
        ))}
      </ul>
      {studies.data.length > 0 && (
        <section className="sheet scroll" aria-label="Saved studies">
          <DataTable
            rows={studies.data}
            rowKey={(study) => study.id}
            columns={[
              {
                title: "Saved study",
                wrap: true,
                value: (study) => <Link to={`/studies/${study.id}`}>{study.title}</Link>,
              },
              { title: "Kind", value: (study) => factsOf(study.kind)?.name },
              { title: "What it said", wrap: true, value: (study) => study.sentence || "–" },
              { title: "Date", value: (study) => study.created_at.slice(0, 10) },
            ]}
          />
        </section>
      )}
    </>
  );
}
