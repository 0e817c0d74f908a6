import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";

import { api, body, SESSION_ENDED } from "../../api/client";
import { forgetAsked } from "../../early";
import { Failed, Loading } from "../../shared/States";
import { forgetLast } from "../../shared/offline";
import { LogInAgain, LogInPage } from "./LogIn";
import { SessionContext, type Session } from "./session";

const KEY = ["session"];

/** Shows its children to whoever is logged in, the log-in page to anyone else. */
export function SessionGate({ children }: { children: ReactNode }) {
  const client = useQueryClient();
  const [ended, setEnded] = useState(false);
  const session = useQuery({
    queryKey: KEY,
    queryFn: async () => body(await api.GET("/api/v1/session/")),
    networkMode: "always", // without a network the worker answers
  });
  useEffect(() => {
    const onEnded = () => setEnded(true);
    window.addEventListener(SESSION_ENDED, onEnded);
    return () => window.removeEventListener(SESSION_ENDED, onEnded);
  }, []);
  if (session.isPending) return <Loading what="who you are" />;
  if (session.error) return <Failed error={session.error} retry={() => void session.refetch()} />;
  const value: Session = {
    person: session.data.person ?? null,
    provider: session.data.provider,
    refused: session.data.refused,
    async logIn(credentials) {
      await api.GET("/api/v1/session/");
      client.setQueryData(KEY, body(await api.POST("/api/v1/session/", { body: credentials })));
      setEnded(false);
    },
    async logOut() {
      await api.DELETE("/api/v1/session/");
      forgetAsked();
      await forgetLast();
      client.clear();
      await session.refetch();
    },
  };
  return (
    <SessionContext value={value}>
      {value.person ? children : <LogInPage />}
      <LogInAgain open={ended && value.person !== null} />
    </SessionContext>
  );
}
