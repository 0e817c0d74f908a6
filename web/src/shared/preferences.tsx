import { createContext, useContext, useEffect, useMemo, useState, type ReactNode } from "react";

import type { Family } from "./units";

interface Preferences {
  family: Family;
  setFamily: (family: Family) => void;
  mode: "light" | "dark";
  setMode: (mode: "light" | "dark") => void;
  car: number | null;
  setCar: (car: number | null) => void;
  /** Whether single keys act. */
  keys: boolean;
  setKeys: (keys: boolean) => void;
  /** How far somebody is on the tour: at a step, not asked yet, or done with it. */
  tour: number | "new" | "closed";
  setTour: (at: number | "new" | "closed") => void;
}

const Context = createContext<Preferences | null>(null);

/** A value that this browser remembers. */
export function useStored<T>(key: string, first: T): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => {
    const kept = localStorage.getItem(`coombe.${key}`);
    return kept === null ? first : (JSON.parse(kept) as T);
  });
  useEffect(() => localStorage.setItem(`coombe.${key}`, JSON.stringify(value)), [key, value]);
  return [value, setValue];
}

export function PreferencesProvider({ children }: { children: ReactNode }) {
  const dusk = window.matchMedia("(prefers-color-scheme: dark)").matches;
  const [family, setFamily] = useStored<Family>("units", "us");
  const [mode, setMode] = useStored<"light" | "dark">("theme", dusk ? "dark" : "light");
  const [car, setCar] = useStored<number | null>("car", null);
  const [keys, setKeys] = useStored("keys", true);
  const [tour, setTour] = useStored<number | "new" | "closed">("tour", "new");
  const value = useMemo(
    () => ({ family, setFamily, mode, setMode, car, setCar, keys, setKeys, tour, setTour }),
    [family, setFamily, mode, setMode, car, setCar, keys, setKeys, tour, setTour],
  );
  return <Context value={value}>{children}</Context>;
}

export function usePreferences(): Preferences {
  const value = useContext(Context);
  if (!value) throw new Error("usePreferences needs a PreferencesProvider around it");
  return value;
}
