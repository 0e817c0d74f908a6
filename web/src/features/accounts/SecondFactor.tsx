import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, Button, Input, Typography } from "antd";

import { api, body } from "../../api/client";
import { EntryForm } from "../../shared/EntryForm";
import { Field } from "../../shared/fields";
import { Failed, Loading } from "../../shared/States";

const KEY = ["second-factor"];

/** Codes of an authenticator app beside the password: turn it on, keep the recovery codes, turn it off. */
export function SecondFactor() {
  const client = useQueryClient();
  const now = useQuery({
    queryKey: KEY,
    queryFn: async () => body(await api.GET("/api/v1/session/second-factor/")),
    staleTime: 0,
  });
  const again = () => client.invalidateQueries({ queryKey: KEY });
  const begin = useMutation({
    mutationFn: async () => body(await api.POST("/api/v1/session/second-factor/")),
  });
  const confirm = useMutation({
    mutationFn: async (values: { code: string }) =>
      body(await api.POST("/api/v1/session/second-factor/confirm/", { body: values })),
    onSuccess: again,
  });
  if (now.error) return <Failed error={now.error} retry={() => void now.refetch()} />;
  if (!now.data) return <Loading what="your second factor" />;
  if (confirm.data) return <RecoveryCodes codes={confirm.data.recovery_codes} />;
  if (now.data.on) return <TurnOff left={now.data.recovery_codes_left} done={() => void again()} />;
  if (!begin.data)
    return (
      <>
        <p>
          Logging in then takes your password and a code that an authenticator app on your phone shows. A
          password that somebody finds out is not enough any more.
        </p>
        {begin.error && <Alert type="error" title={begin.error.message} className="below" />}
        <Button type="primary" loading={begin.isPending} onClick={() => begin.mutate()}>
          Turn on
        </Button>
      </>
    );
  return (
    <>
      <p>Have the app read this, then type the code that it shows.</p>
      <img className="qr" src={begin.data.picture} alt="QR code for the authenticator app" />
      <p className="quiet">
        It can&rsquo;t be read? Type this into the app:{" "}
        <Typography.Text copyable>{begin.data.secret}</Typography.Text>
      </p>
      <EntryForm
        first={{}}
        save={confirm}
        sent={(values: { code: string }) => values}
        done={() => undefined}
        submit="Confirm"
      >
        <Field name="code" label="Code" required="Type the six digits">
          <Input autoComplete="one-time-code" inputMode="numeric" maxLength={10} />
        </Field>
      </EntryForm>
    </>
  );
}

function RecoveryCodes({ codes }: { codes: string[] }) {
  return (
    <>
      <Alert
        type="success"
        className="below"
        title="The second factor is on. Keep these codes where the phone is not."
        description="Each takes the place of the app once. They are not shown again."
      />
      <Typography.Paragraph copyable={{ text: codes.join("\n") }} className="recovery">
        {codes.map((code) => (
          <code key={code}>{code}</code>
        ))}
      </Typography.Paragraph>
    </>
  );
}

function TurnOff({ left, done }: { left: number; done: () => void }) {
  const off = useMutation({
    mutationFn: async (values: { current: string }) => {
      await api.POST("/api/v1/session/second-factor/off/", { body: values });
    },
  });
  return (
    <>
      <p>
        It is on; {left} recovery {left === 1 ? "code is" : "codes are"} left.
        {left < 3 && " Turn it off and on again for new ones."}
      </p>
      <EntryForm
        first={{}}
        save={off}
        sent={(values: { current: string }) => values}
        done={done}
        submit="Turn off"
      >
        <Field name="current" label="Your password" required="Enter your password">
          <Input.Password autoComplete="current-password" />
        </Field>
      </EntryForm>
    </>
  );
}
