import { Alert, Button, Dropdown, Form, Input, Modal, Select } from "antd";
import { useState } from "react";

import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";
import { asOptions } from "../../shared/options";
import { Failed, Loading } from "../../shared/States";
import { useTitle } from "../../shared/useTitle";
import { InvitationForm, Invitations, LinkToSend } from "./Invitations";
import { ROLES, usePeople, usePeopleChanges, type Person } from "./people";
import { useSession } from "./session";

/** Who may log in, for administrators: roles, invitations, and help for whoever can't get in. */
export function PeoplePage() {
  useTitle("People");
  const people = usePeople();
  const changes = usePeopleChanges();
  const [inviting, setInviting] = useState(false);
  if (people.error) return <Failed error={people.error} retry={() => void people.refetch()} />;
  if (!people.data) return <Loading what="the people" />;
  const error = Object.values(changes).find((change) => change.error)?.error;
  const link = changes.renewPassword.data;
  return (
    <>
      <div className="page-head">
        <h1>People</h1>
        <Button type="primary" className="push" onClick={() => setInviting(true)}>
          Invite somebody
        </Button>
      </div>
      {error && <Alert type="error" title={error.message} className="below" />}
      {link && <LinkToSend link={link} />}
      <section className="sheet">
        <PeopleTable people={people.data} changes={changes} />
      </section>
      <Invitations takeBack={(id) => changes.takeBack.mutate(id)} />
      <Modal
        title="Invite somebody"
        open={inviting}
        onCancel={() => setInviting(false)}
        footer={null}
        destroyOnHidden
        afterClose={() => changes.invite.reset()}
      >
        {changes.invite.data ? (
          <LinkToSend link={changes.invite.data} />
        ) : (
          <InvitationForm send={(values) => changes.invite.mutate(values)} busy={changes.invite.isPending} />
        )}
      </Modal>
    </>
  );
}

type Changes = ReturnType<typeof usePeopleChanges>;

function PeopleTable({ people, changes }: { people: Person[]; changes: Changes }) {
  const { person: own } = useSession();
  return (
    <DataTable
      label="People"
      rows={people}
      rowKey={(person) => person.id}
      columns={[
        {
          title: "Name",
          wrap: true,
          value: (person) => (
            <>
              {person.username}
              {person.email && <div className="quiet breakable">{person.email}</div>}
            </>
          ),
        },
        {
          title: "Role",
          value: (person) => (
            <Select
              size="small"
              aria-label={`Role of ${person.username}`}
              className="token-role"
              value={person.role}
              disabled={person.username === own?.username}
              options={asOptions(ROLES)}
              onChange={(role) => changes.change.mutate({ id: person.id, role })}
            />
          ),
        },
        { title: "", value: (person) => <PersonMenu person={person} changes={changes} /> },
        { title: "Logs in", wrap: true, value: howLoggingIn },
        {
          title: "Last log-in",
          value: (person) => (person.last_login ? dayAndTime(person.last_login) : "never"),
        },
      ]}
    />
  );
}

function howLoggingIn(person: Person): string {
  if (!person.is_active) return "closed";
  const how = [
    person.elsewhere && "also at the provider",
    person.second_factor && "with a second factor",
    person.browsers > 0 && `in ${person.browsers} ${person.browsers === 1 ? "browser" : "browsers"} now`,
  ].filter(Boolean);
  return how.join(", ") || "by password";
}

function PersonMenu({ person, changes }: { person: Person; changes: Changes }) {
  const { person: own } = useSession();
  const [mailing, setMailing] = useState(false);
  const { id } = person;
  const acts: Record<string, () => void> = {
    password: () => changes.renewPassword.mutate(id),
    mail: () => setMailing(true),
    sessions: () => changes.endSessions.mutate(id),
    factor: () => changes.secondFactorOff.mutate(id),
    close: () => changes.change.mutate({ id, is_active: !person.is_active }),
  };
  return (
    <>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            { key: "password", label: "Link for a new password" },
            { key: "mail", label: "E-mail address" },
            ...(person.second_factor ? [{ key: "factor", label: "Turn second factor off" }] : []),
            ...(person.browsers > 0 ? [{ key: "sessions", label: "Log out everywhere" }] : []),
            ...(person.username === own?.username
              ? []
              : [{ key: "close", label: person.is_active ? "Close the account" : "Open the account again" }]),
          ],
          onClick: ({ key }) => acts[key]?.(),
        }}
      >
        <Button size="small" aria-label={`Change ${person.username}`}>
          Change ▾
        </Button>
      </Dropdown>
      <Modal
        title={`E-mail address of ${person.username}`}
        open={mailing}
        onCancel={() => setMailing(false)}
        footer={null}
        destroyOnHidden
      >
        <Form
          layout="vertical"
          initialValues={{ email: person.email }}
          onFinish={({ email = "" }: { email?: string }) =>
            changes.change.mutate({ id, email }, { onSuccess: () => setMailing(false) })
          }
        >
          <Form.Item name="email" label="E-mail address" extra="Whoever signs in elsewhere is known by it.">
            <Input type="email" maxLength={254} />
          </Form.Item>
          <Button type="primary" htmlType="submit" loading={changes.change.isPending}>
            Save
          </Button>
        </Form>
      </Modal>
    </>
  );
}
