import { useEffect, useState } from "react";

const SETTLED_MS = 300;

/** A value once it has stayed the same for a moment: what is asked while typing is asked once. */
export function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}
