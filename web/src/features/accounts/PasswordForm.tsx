import { useMutation } from "@tanstack/react-query";
import { Alert, Form, Input } from "antd";

import { api, type Schemas } from "../../api/client";
import { EntryForm } from "../../shared/EntryForm";
import { Field } from "../../shared/fields";

type Typed = Schemas["PasswordRequest"] & { again: string };

/** A new password, which logs one's other browsers out. */
export function PasswordForm() {
  const change = useMutation({
    mutationFn: async ({ current, new: chosen }: Typed) => {
      await api.POST("/api/v1/session/password/", { body: { current, new: chosen } });
    },
  });
  if (change.isSuccess) {
    return <Alert type="success" title="Your password is changed. Your other browsers are logged out." />;
  }
  return (
    <EntryForm
      first={{}}
      save={change}
      sent={(values: Typed) => values}
      done={() => undefined}
      submit="Change password"
    >
      <Field name="current" label="Current password" required="Enter the current password">
        <Input.Password autoComplete="current-password" />
      </Field>
      <Field name="new" label="New password" required="Enter a new password">
        <Input.Password autoComplete="new-password" />
      </Field>
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
                : Promise.reject(new Error("The two passwords differ.")),
          }),
        ]}
      >
        <Input.Password autoComplete="new-password" />
      </Form.Item>
    </EntryForm>
  );
}
