import { Alert, Button, Form, Input, Popconfirm, Select, Typography } from "antd";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { api, body, type Schemas } from "../../api/client";
import { DataTable } from "../../shared/DataTable";
import { dayAndTime } from "../../shared/dates";
import { useSession } from "./session";

const ROLES: Schemas["Role"][] = ["reader", "tester", "administrator"];

const CALENDAR = "calendar";

/** What the form asks: a role for the API, or the calendar. */
interface Asked {
  name: string;
  opens: Schemas["Role"] | typeof CALENDAR;
}

/** One's own access tokens: what they may do, when each was used last, make one, revoke one. */
export function Tokens() {
  const { list, make, revoke } = useTokens();
  const { person } = useSession();
  const roles = ROLES.slice(0, ROLES.indexOf(person?.role ?? "reader") + 1);
  const error = list.error ?? make.error ?? revoke.error;
  return (
    <>
      <p>
        A program sends one as <code>Authorization: Bearer …</code> to use the <a href="/api/docs/">API</a> in
        your name. A calendar program takes an address of its own, which shows the test days and opens nothing
        else.
      </p>
      <Form
        layout="inline"
        className="token-form"
        initialValues={{ opens: "reader" }}
        onFinish={({ name, opens }: Asked) =>
          make.mutate(
            opens === CALENDAR ? { name, role: "reader", use: CALENDAR } : { name, role: opens, use: "api" },
          )
        }
      >
        <Form.Item name="name" label="Purpose" rules={[{ required: true, message: "Say what it is for" }]}>
          <Input maxLength={60} />
        </Form.Item>
        <Form.Item name="opens" label="Opens">
          <Select
            options={[
              ...roles.map((value) => ({ value, label: `API as ${value}` })),
              { value: CALENDAR, label: "Calendar of test days" },
            ]}
            className="token-role"
          />
        </Form.Item>
        <Button type="primary" htmlType="submit" loading={make.isPending}>
          Create token
        </Button>
      </Form>
      {error && <Alert type="error" title={error.message} />}
      {make.data && (
        <Alert
          className="below"
          type="success"
          title={`Copy this ${make.data.use === CALENDAR ? "address" : "token"} now. It is not shown again.`}
          description={<Typography.Text copyable>{shown(make.data)}</Typography.Text>}
        />
      )}
      {list.data?.length === 0 && <p className="quiet">No access tokens yet.</p>}
      {list.data && list.data.length > 0 && (
        <DataTable
          rows={list.data}
          rowKey={(token) => token.id}
          columns={[
            {
              title: "Purpose, last letters",
              wrap: true,
              value: (token) => `${token.name} …${token.ending}`,
            },
            {
              title: "Opens",
              value: (token) => (token.use === CALENDAR ? "calendar" : `API as ${token.role}`),
            },
            {
              title: "Last used",
              value: (token) => (token.used_at ? dayAndTime(token.used_at) : "never"),
            },
            {
              title: "",
              value: (token) => (
                <Popconfirm
                  title="Revoke this token? Programs that use it stop working."
                  okText="Revoke"
                  onConfirm={() => revoke.mutate(token.id)}
                >
                  <Button size="small" aria-label={`Revoke ${token.name}`}>
                    Revoke
                  </Button>
                </Popconfirm>
              ),
            },
          ]}
        />
      )}
    </>
  );
}

/** What a person copies: the token, or the address that a calendar program asks. */
function shown({ token, use }: Schemas["NewToken"]): string {
  return use === CALENDAR ? `${window.location.origin}/calendar/${token}.ics` : token;
}

function useTokens() {
  const client = useQueryClient();
  const key = ["tokens"];
  const settled = { onSuccess: () => client.invalidateQueries({ queryKey: key }) };
  return {
    list: useQuery({
      queryKey: key,
      queryFn: async () => body(await api.GET("/api/v1/tokens/")).results,
    }),
    make: useMutation({
      mutationFn: async (values: Schemas["TokenRequest"]) =>
        body(await api.POST("/api/v1/tokens/", { body: values })),
      ...settled,
    }),
    revoke: useMutation({
      mutationFn: (id: number) => api.DELETE("/api/v1/tokens/{id}/", { params: { path: { id } } }),
      ...settled,
    }),
  };
}
