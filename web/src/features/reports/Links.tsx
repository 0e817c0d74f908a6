import { Alert, Button, Input, Popconfirm, Select, Typography } from "antd";
import { useState } from "react";

import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";
import { useMakeShare, useRevoke, type Report, type Share } from "./queries";

const DAY_MS = 86_400_000;
const LASTS = [7, 30, 90, 365].map((days) => ({ value: days, label: `${days} days` }));

/** Links that show the report to whoever has them; each ends by itself, or is revoked. */
export function Links({ report, writes }: { report: Report; writes: boolean }) {
  const revoke = useRevoke();
  return (
    <section className="sheet" aria-label="Links">
      <h2>Links</h2>
      <p className="quiet">
        Whoever has a link sees the published versions without a log-in, and nothing else of Coombe.
      </p>
      {writes && <NewLink report={report.id} />}
      {revoke.error && <Alert type="error" title={revoke.error.message} />}
      {report.shares.length > 0 && (
        <DataTable
          label="Links"
          rows={report.shares}
          rowKey={(share) => share.id}
          rowClass={(share) => (stateOf(share) === "works" ? "" : "dropped")}
          columns={[
            {
              title: "Ends in",
              value: (share) => `…${share.ending}${share.has_password ? ", password" : ""}`,
            },
            { title: "State", value: (share) => stateOf(share) },
            { title: "Until", value: (share) => share.expires_at.slice(0, 10) },
            { title: "Views", number: true, value: (share) => share.views },
            {
              title: "Last seen",
              value: (share) => (share.viewed_at ? dayAndTime(share.viewed_at) : "never"),
            },
            writes && {
              title: "",
              value: (share) =>
                stateOf(share) === "works" && (
                  <Popconfirm
                    title="Revoke this link? Whoever has it sees nothing any more."
                    okText="Revoke"
                    onConfirm={() => revoke.mutate(share.id)}
                  >
                    <Button size="small" aria-label={`Revoke the link …${share.ending}`}>
                      Revoke
                    </Button>
                  </Popconfirm>
                ),
            },
          ]}
        />
      )}
    </section>
  );
}

function stateOf(share: Share): string {
  if (share.revoked_at) return "revoked";
  return new Date(share.expires_at).getTime() <= Date.now() ? "expired" : "works";
}

function NewLink({ report }: { report: number }) {
  const [days, setDays] = useState(30);
  const [password, setPassword] = useState("");
  const make = useMakeShare();
  return (
    <>
      <form
        className="save-line"
        onSubmit={(event) => {
          event.preventDefault();
          const expires_at = new Date(Date.now() + days * DAY_MS - 60_000).toISOString();
          make.mutate({ report, expires_at, password }, { onSuccess: () => setPassword("") });
        }}
      >
        <Select aria-label="Works for" value={days} options={LASTS} onChange={setDays} />
        <Input.Password
          aria-label="Password of the link"
          className="grow"
          autoComplete="new-password"
          placeholder="password, if one is to be asked"
          minLength={6}
          maxLength={100}
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        <Button htmlType="submit" loading={make.isPending}>
          Make a link
        </Button>
      </form>
      {make.error && <Alert type="error" className="below" title={make.error.message} />}
      {make.data && (
        <Alert
          className="below"
          type="success"
          title="Copy this link now. It is not shown again."
          description={
            <Typography.Text copyable data-testid="link">
              {window.location.origin + make.data.path}
            </Typography.Text>
          }
        />
      )}
    </>
  );
}
