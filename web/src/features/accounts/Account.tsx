import { Alert, Button, Dropdown, Form, Input, Modal } from "antd";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, ApiError, type Schemas } from "../../api/client";
import { useSession } from "./session";

type Typed = Schemas["PasswordRequest"] & { again: string };

/** Who is logged in, with what they can do about that. */
export function Account() {
  const { person, logOut } = useSession();
  const [open, setOpen] = useState(false);
  return (
    <>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            { key: "role", label: `Role: ${person?.role}`, disabled: true },
            { key: "password", label: "Change password" },
            { key: "out", label: "Log out" },
          ],
          onClick: ({ key }) => (key === "password" ? setOpen(true) : void logOut()),
        }}
      >
        <Button type="text" aria-label={`Account of ${person?.username}`}>
          {person?.username} ▾
        </Button>
      </Dropdown>
      <Modal
        title="Change your password"
        open={open}
        onCancel={() => setOpen(false)}
        footer={null}
        destroyOnHidden
      >
        <PasswordForm />
      </Modal>
    </>
  );
}

function PasswordForm() {
  const change = useMutation({
    mutationFn: async ({ current, new: chosen }: Typed) => {
      await api.POST("/api/session/password/", { body: { current, new: chosen } });
    },
  });
  const refused = change.error instanceof ApiError ? change.error.fields : {};
  const help = (name: string) =>
    refused[name] ? { validateStatus: "error" as const, help: refused[name] } : {};
  if (change.isSuccess) {
    return <Alert type="success" title="Your password is changed. Your other browsers are logged out." />;
  }
  return (
    <Form layout="vertical" onFinish={(values: Typed) => change.mutate(values)}>
      <Form.Item name="current" label="Current password" rules={[{ required: true }]} {...help("current")}>
        <Input.Password autoComplete="current-password" />
      </Form.Item>
      <Form.Item name="new" label="New password" rules={[{ required: true }]} {...help("new")}>
        <Input.Password autoComplete="new-password" />
      </Form.Item>
      <Form.Item
        name="again"
        label="New password again"
        dependencies={["new"]}
        rules={[
          { required: true },
          ({ getFieldValue }) => ({
            validator: (_, value) =>
              value === getFieldValue("new")
                ? Promise.resolve()
                : Promise.reject(new Error("The two are not the same.")),
          }),
        ]}
      >
        <Input.Password autoComplete="new-password" />
      </Form.Item>
      {change.error && Object.keys(refused).length === 0 && (
        <Alert type="error" title={change.error.message} style={{ marginBottom: 12 }} />
      )}
      <Button type="primary" htmlType="submit" loading={change.isPending}>
        Change the password
      </Button>
    </Form>
  );
}
