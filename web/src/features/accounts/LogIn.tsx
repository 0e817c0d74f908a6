import { Alert, Button, Form, Input, Modal } from "antd";
import { useState } from "react";

import { ApiError, type Schemas } from "../../api/client";
import { useSession } from "./session";

export function LogInPage() {
  return (
    <main className="cover">
      <div className="sheet">
        <h1>Coombe</h1>
        <p className="quiet">Acceleration and braking, measured, with the uncertainty of every number.</p>
        <LogInForm />
      </div>
    </main>
  );
}

/** Over whatever was open when the session ended, so that nothing typed is lost. */
export function LogInAgain({ open }: { open: boolean }) {
  return (
    <Modal title="The log-in has ended" open={open} footer={null} closable={false} width={400}>
      <p>Log in again and save once more. What you typed is still there.</p>
      <LogInForm />
    </Modal>
  );
}

function LogInForm() {
  const { logIn, provider, refused: refusedThere } = useSession();
  const [refused, setRefused] = useState(refusedThere);
  const [coded, setCoded] = useState(false);
  const [busy, setBusy] = useState(false);
  async function submit(credentials: Schemas["CredentialsRequest"]) {
    setBusy(true);
    setRefused("");
    try {
      await logIn(credentials);
    } catch (error) {
      const wanted = error instanceof ApiError && error.problem.code === "second_factor";
      if (wanted) setCoded(true);
      if (!wanted || coded) setRefused((error as Error).message);
    } finally {
      setBusy(false);
    }
  }
  return (
    <Form<Schemas["CredentialsRequest"]>
      layout="vertical"
      onFinish={(credentials) => void submit(credentials)}
    >
      <Form.Item name="username" label="Name" rules={[{ required: true, message: "Enter your name" }]}>
        <Input autoComplete="username" autoFocus />
      </Form.Item>
      <Form.Item
        name="password"
        label="Password"
        rules={[{ required: true, message: "Enter your password" }]}
      >
        <Input.Password autoComplete="current-password" />
      </Form.Item>
      {coded && (
        <Form.Item
          name="code"
          label="Code of your authenticator app, or a recovery code"
          rules={[{ required: true, message: "Enter the code" }]}
        >
          <Input autoComplete="one-time-code" maxLength={20} autoFocus />
        </Form.Item>
      )}
      {refused && <Alert type="error" title={refused} className="below" />}
      <Button type="primary" htmlType="submit" loading={busy} block>
        Log in
      </Button>
      {provider && (
        <Button href="/sign-in/" block className="above">
          Sign in at {provider}
        </Button>
      )}
    </Form>
  );
}
