import { Alert, Button, Form, Input, Modal } from "antd";
import { useState } from "react";

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
  const { logIn } = useSession();
  const [refused, setRefused] = useState("");
  const [busy, setBusy] = useState(false);
  async function submit(values: { username: string; password: string }) {
    setBusy(true);
    setRefused("");
    try {
      await logIn(values.username, values.password);
    } catch (error) {
      setRefused((error as Error).message);
    } finally {
      setBusy(false);
    }
  }
  return (
    <Form
      layout="vertical"
      onFinish={(values) => void submit(values as { username: string; password: string })}
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
      {refused && <Alert type="error" title={refused} className="below" />}
      <Button type="primary" htmlType="submit" loading={busy} block>
        Log in
      </Button>
    </Form>
  );
}
