import { Alert, Button, Form, Input, Select, Typography } from "antd";

import type { Schemas } from "../../api/client";
import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";
import { asOptions } from "../../shared/options";
import { addressOf, ROLES, useInvitations } from "./people";

interface InvitationProps {
  send: (values: Schemas["InvitationRequest"]) => void;
  busy: boolean;
}

export function InvitationForm({ send, busy }: InvitationProps) {
  return (
    <Form layout="vertical" initialValues={{ role: "tester" }} onFinish={send}>
      <Form.Item
        name="role"
        label="Role"
        extra="Readers look; testers measure and change; administrators also manage people."
      >
        <Select options={asOptions(ROLES)} />
      </Form.Item>
      <Form.Item name="email" label="E-mail address (optional)">
        <Input type="email" maxLength={254} />
      </Form.Item>
      <Button type="primary" htmlType="submit" loading={busy}>
        Make the link
      </Button>
    </Form>
  );
}

/** What an administrator hands on; nobody sees it again. */
export function LinkToSend({ link }: { link: Schemas["NewLink"] }) {
  return (
    <Alert
      className="below"
      type="success"
      title={
        link.person
          ? `Send this to ${link.person}: it sets a new password, once, within a day.`
          : `Send this to whom you invite: it makes one account as ${link.role}, within a week.`
      }
      description={<Typography.Text copyable>{addressOf(link)}</Typography.Text>}
    />
  );
}

export function Invitations({ takeBack }: { takeBack: (id: number) => void }) {
  const links = useInvitations();
  if (!links.data?.length) return null;
  return (
    <section className="sheet">
      <h2>Links that wait to be used</h2>
      <DataTable
        label="Links"
        rows={links.data}
        rowKey={(link) => link.id}
        columns={[
          {
            title: "For",
            wrap: true,
            value: (link) =>
              link.person
                ? `a new password of ${link.person}`
                : `${link.email || "somebody"} as ${link.role}`,
          },
          {
            title: "",
            value: (link) => (
              <Button
                size="small"
                aria-label={`Take back the link for ${link.person ?? (link.email || link.role)}`}
                onClick={() => takeBack(link.id)}
              >
                Take back
              </Button>
            ),
          },
          { title: "Made", value: (link) => dayAndTime(link.made_at) },
          { title: "Works until", value: (link) => dayAndTime(link.ends_at) },
        ]}
      />
    </section>
  );
}
