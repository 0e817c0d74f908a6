import { createContext, useContext } from "react";

import type { Schemas } from "../../api/client";

export interface Session {
  person: Schemas["Person"] | null;
  /** Where people may sign in instead; empty for none. */
  provider: string;
  /** Why signing in there failed; else empty. */
  refused: string;
  logIn: (credentials: Schemas["CredentialsRequest"]) => Promise<void>;
  logOut: () => Promise<void>;
}

export const SessionContext = createContext<Session | null>(null);

export function useSession(): Session {
  const value = useContext(SessionContext);
  if (!value) throw new Error("useSession needs a SessionGate around it");
  return value;
}
