import { Alert, Button, Input, Switch } from "antd";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";

import { DataTable } from "../../shared/DataTable";
import { usePreferences } from "../../shared/preferences";
import { Failed, Loading, Nothing } from "../../shared/States";
import { useTitle } from "../../shared/useTitle";
import { useSession } from "../accounts/session";
import { useMakeReport, useReports, useSharing, useSwitchSharing, type Part } from "./queries";

/** What may come with the address: the thing that a new report begins with. */
const FIRST = { comparison: "comparison", study: "study", run: "slip" } as const;

/** Every report, what was published of it, and beginning a new one. */
export function ReportsPage() {
  useTitle("Reports");
  const reports = useReports();
  const { person } = useSession();
  if (reports.isPending) return <Loading what="the reports" />;
  if (reports.error) return <Failed error={reports.error} retry={() => void reports.refetch()} />;
  return (
    <>
      <div className="page-head">
        <h1>Reports</h1>
        <span className="quiet">What was found, for somebody who was not there</span>
        {person?.role === "administrator" && <SharingSwitch />}
      </div>
      {person?.may_write && <NewReport />}
      {reports.data.length === 0 ? (
        <Nothing title="No reports yet">
          <p>
            A report puts comparisons, studies, slips and your own words together, is published as it stands,
            and is shown to others by a link. Begin one above, or from <Link to="/compare">a comparison</Link>
            .
          </p>
        </Nothing>
      ) : (
        <section className="sheet">
          <DataTable
            label="Reports"
            rows={reports.data}
            rowKey={(report) => report.id}
            columns={[
              {
                title: "Report",
                wrap: true,
                value: (report) => <Link to={`/reports/${report.id}`}>{report.title}</Link>,
              },
              { title: "Question", wrap: true, value: (report) => report.question || "–" },
              {
                title: "Published",
                value: (report) => report.published_at?.slice(0, 10) ?? "not yet",
              },
              { title: "Links that work", number: true, value: (report) => report.links || "–" },
              { title: "By", value: (report) => report.created_by },
            ]}
          />
        </section>
      )}
    </>
  );
}

function NewReport() {
  const [params] = useSearchParams();
  const [title, setTitle] = useState(params.get("title") ?? "");
  const { family } = usePreferences();
  const make = useMakeReport();
  const navigate = useNavigate();
  const parts = Object.entries(FIRST).flatMap(([name, kind]): Part[] => {
    const id = Number(params.get(name));
    return id ? [{ kind, id, text: "" }] : [];
  });
  return (
    <form
      className="sheet save-line"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate(
          { title, parts, units: family, paper: family === "us" ? "letter" : "a4" },
          { onSuccess: (report) => void navigate(`/reports/${report.id}`) },
        );
      }}
    >
      <Input
        aria-label="Title"
        className="grow"
        maxLength={160}
        placeholder="Title, such as: What update 7.2 brought"
        value={title}
        onChange={(event) => setTitle(event.target.value)}
      />
      <Button type="primary" htmlType="submit" disabled={!title.trim()} loading={make.isPending}>
        New report
      </Button>
      {make.error && <Alert type="error" title={make.error.message} />}
    </form>
  );
}

/** An administrator's switch: off, every link says that there is nothing. */
function SharingSwitch() {
  const sharing = useSharing();
  const turn = useSwitchSharing();
  return (
    <label className="push row">
      Links without log-in
      <Switch
        aria-label="Links without log-in"
        checked={sharing.data?.allowed ?? false}
        loading={sharing.isPending || turn.isPending}
        onChange={(allowed) => turn.mutate(allowed)}
        checkedChildren="on"
        unCheckedChildren="off"
      />
    </label>
  );
}
