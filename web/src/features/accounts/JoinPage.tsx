import { useMutation, useQuery } from "@tanstack/react-query";
import { Alert, Input } from "antd";

import { api, body } from "../../api/client";
import { dayAndTime } from "../../shared/dates";
import { EntryForm } from "../../shared/EntryForm";
import { Field } from "../../shared/fields";
import { Loading } from "../../shared/States";
import { useTitle } from "../../shared/useTitle";

interface Chosen {
  username: string;
  password: string;
}

/** What a link opens that an administrator sent: a new account, or a new password. */
export function JoinPage() {
  useTitle("Your account");
  const secret = window.location.hash.slice(1);
  const link = useQuery({
    queryKey: ["link", secret],
    queryFn: async () => {
      await api.GET("/api/v1/session/"); // for the CSRF cookie
      return body(await api.POST("/api/v1/session/link/", { body: { secret } }));
    },
    retry: false,
    staleTime: Infinity,
  });
  const use = useMutation({
    mutationFn: async (chosen: Chosen) => {
      await api.POST("/api/v1/session/link/use/", { body: { secret, ...chosen } });
    },
  });
  if (link.isPending) return <Loading what="the link" />;
  return (
    <main className="cover">
      <div className="sheet">
        <h1>Coombe</h1>
        {link.error && <Alert type="error" title={link.error.message} />}
        {use.isSuccess && (
          <Alert
            type="success"
            title={link.data?.person ? "Your password is set." : "Your account is made."}
            description={<a href="/">Log in</a>}
          />
        )}
        {link.data && !use.isSuccess && (
          <>
            <p>
              {link.data.person
                ? `A new password for ${link.data.person}. Browsers that are logged in are logged out.`
                : `You are invited as ${link.data.role}. Choose the name and password that you log in with.`}
            </p>
            <EntryForm
              first={link.data.person ? { username: link.data.person } : {}}
              save={use}
              sent={(chosen: Chosen) => chosen}
              done={() => undefined}
              submit={link.data.person ? "Set the password" : "Make the account"}
            >
              <Field name="username" label="Name" required="Choose a name">
                <Input autoComplete="username" disabled={Boolean(link.data.person)} maxLength={150} />
              </Field>
              <Field name="password" label="Password, at least 10 characters" required="Choose a password">
                <Input.Password autoComplete="new-password" />
              </Field>
            </EntryForm>
            <p className="quiet above">The link works once, until {dayAndTime(link.data.ends_at)}.</p>
          </>
        )}
      </div>
    </main>
  );
}
