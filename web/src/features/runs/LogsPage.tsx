import { Input, Pagination, Segmented } from "antd";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";
import { When } from "../../shared/When";
import { Failed, Loading, Nothing } from "../../shared/States";
import { useSettled } from "../../shared/useSettled";
import { useTitle } from "../../shared/useTitle";
import { Receivers } from "./Receivers";
import { TableLayouts } from "./TableLayouts";
import { useLogs } from "./logs";

const PAGE = 50;

const PARTS = { logs: "Logs", receivers: "Receivers", layouts: "Named columns" } as const;
type Part = keyof typeof PARTS;

/** Every log, and what is known of the receivers and tables that logs come from. */
export function LogsPage() {
  const [params, setParams] = useSearchParams();
  const asked = params.get("part") ?? "";
  const part: Part = asked in PARTS ? (asked as Part) : "logs";
  useTitle(PARTS[part]);
  return (
    <>
      <Segmented
        className="below"
        aria-label="Part"
        value={part}
        options={Object.entries(PARTS).map(([value, label]) => ({ value: value as Part, label }))}
        onChange={(next) => setParams(next === "logs" ? {} : { part: next })}
      />
      {part === "logs" ? (
        <Logs />
      ) : (
        <div className="page-head">
          <h1>{PARTS[part]}</h1>
        </div>
      )}
      {part === "receivers" && <Receivers />}
      {part === "layouts" && <TableLayouts />}
    </>
  );
}

/** Every log that was imported or recorded, with what came of it. */
function Logs() {
  const [page, setPage] = useState(1);
  const [name, setName] = useState("");
  const settled = useSettled(name);
  const logs = useLogs(page, settled);
  if (logs.isPending) return <Loading what="the logs" />;
  if (logs.error) return <Failed error={logs.error} retry={() => void logs.refetch()} />;
  return (
    <>
      <div className="page-head">
        <h1>Logs</h1>
        <span className="quiet">{logs.data.count} in this list</span>
        <span className="push">
          <Input.Search
            allowClear
            aria-label="Name of a log"
            placeholder="name of a log"
            value={name}
            onChange={(event) => {
              setName(event.target.value);
              setPage(1);
            }}
          />
        </span>
      </div>
      {logs.data.count === 0 ? (
        <Nothing title={settled ? "No log of that name" : "No logs yet"}>
          <p>
            Logs come from <Link to="/runs">importing a file</Link> or <Link to="/record">recording</Link>.
          </p>
        </Nothing>
      ) : (
        <section className="sheet">
          <DataTable
            rows={logs.data.results}
            rowKey={(log) => log.id}
            columns={[
              {
                title: "Log",
                wrap: true,
                value: (log) => (
                  <Link className="long-name" to={`/logs/${log.id}`}>
                    {log.name}
                  </Link>
                ),
              },
              {
                title: "Driven",
                value: (log) => (log.date_known ? <When of={log} /> : "no date"),
              },
              { title: "Setup", wrap: true, value: (log) => log.setup_names.join(", ") || "–" },
              { title: "Runs", number: true, value: (log) => log.run_ids.length },
              { title: "Not timed", number: true, value: (log) => log.untimed.length || "–" },
              { title: "Lines left out", number: true, value: (log) => log.rejected || "–" },
              { title: "CAN", value: (log) => (log.can_log ? "yes" : "–") },
              {
                title: "Stored",
                value: (log) => `${dayAndTime(log.imported_at)}, ${log.imported_by}`,
              },
            ]}
          />
          <Pagination
            className="above"
            hideOnSinglePage
            showSizeChanger={false}
            current={page}
            pageSize={PAGE}
            total={logs.data.count}
            onChange={setPage}
          />
        </section>
      )}
    </>
  );
}
