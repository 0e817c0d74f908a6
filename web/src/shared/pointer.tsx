import { createContext, useContext, useMemo, type ReactNode } from "react";

type Listener = (since_s: number | null) => void;

/** One instant of a run that every chart of its sheet points at, without drawing anything anew. */
export interface Pointer {
  tell: Listener;
  listen: (listener: Listener) => () => void;
}

function makePointer(): Pointer {
  const listeners = new Set<Listener>();
  return {
    tell: (since_s) => listeners.forEach((listener) => listener(since_s)),
    listen(listener) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}

const Context = createContext<Pointer | null>(null);

export function PointerProvider({ children }: { children: ReactNode }) {
  const pointer = useMemo(() => makePointer(), []);
  return <Context value={pointer}>{children}</Context>;
}

export function usePointer(): Pointer | null {
  return useContext(Context);
}
