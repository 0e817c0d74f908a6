import { useEffect } from "react";
import { useNavigate } from "react-router";

import { usePreferences } from "./preferences";

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    target.closest("input, textarea, select, [role=combobox], [role=dialog]") !== null
  );
}

/** Enter and space belong to whatever has the focus. */
function isPressing(event: KeyboardEvent): boolean {
  return (
    (event.key === "Enter" || event.key === " ") &&
    event.target instanceof HTMLElement &&
    event.target.closest("button, a, summary, [role=button], [role=tab], [role=switch]") !== null
  );
}

/** Calls the action of a key pressed outside of any field, unless keys are switched off in this browser. */
export function useKeys(actions: Record<string, () => void>) {
  const { keys } = usePreferences();
  useEffect(() => {
    if (!keys) return;
    function onKey(event: KeyboardEvent) {
      if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (isPressing(event)) return;
      const act = actions[event.key];
      if (act) {
        event.preventDefault();
        act();
      }
    }
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [actions, keys]);
}

export function useGoTo() {
  const navigate = useNavigate();
  return {
    c: () => void navigate("/cars"),
    o: () => void navigate("/courses"),
    t: () => void navigate("/studies"),
    p: () => void navigate("/plans"),
    s: () => void navigate("/record"),
    r: () => void navigate("/runs"),
    m: () => void navigate("/compare"),
  };
}
