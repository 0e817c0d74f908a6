import { Alert, Button, Form, Input, Modal } from "antd";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { api, ApiError, type Schemas } from "../../api/client";

type Typed = Schemas["PasswordRequest"] & { again: string };

/** One's own password. */
export function Account() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button type="text" onClick={() => setOpen(true)}>
        Password
      </Button>
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
    return <Alert type="success" title="Your password is changed. Other browsers of yours are logged out." />;
  }
  return (
    <Form layout="vertical" onFinish={(values: Typed) => change.mutate(values)}>
      <Form.Item name="current" label="Present password" rules={[{ required: true }]} {...help("current")}>
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
