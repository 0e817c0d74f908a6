import { useEffect, useState } from "react";
import { flushSync } from "react-dom";

/** Whether the page has gone to paper, where everything is to be seen: drawn before the printing begins. */
export function usePrinted(): boolean {
  const [printed, setPrinted] = useState(false);
  useEffect(() => {
    const print = () => flushSync(() => setPrinted(true));
    window.addEventListener("beforeprint", print, { once: true });
    return () => window.removeEventListener("beforeprint", print);
  }, []);
  return printed;
}
