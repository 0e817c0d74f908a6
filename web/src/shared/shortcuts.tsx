import { Modal, Switch } from "antd";
import { useEffect } from "react";
import { Link, useNavigate } from "react-router";

import { usePreferences } from "./preferences";

export const SHORTCUTS: [string, string][] = [
  ["c", "Cars"],
  ["o", "Courses"],
  ["p", "Plan"],
  ["s", "Record at the strip"],
  ["r", "Runs"],
  ["t", "Studies"],
  ["m", "Compare"],
  ["u", "Switch units"],
  ["d", "Light or dark"],
  ["k", "Keep the run on the open sheet"],
  ["v", "Void the run on the open sheet"],
  ["b", "The run before the open one"],
  ["n", "The run after the open one"],
  ["?", "This list"],
];

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

export function ShortcutList({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Modal title="Shortcuts" open={open} onCancel={close} footer={null} destroyOnHidden width={420}>
      <KeyList />
      <Link to="/help" onClick={close}>
        Help: words, formats and the method
      </Link>
    </Modal>
  );
}

/** Every key and what it does, and whether keys act at all. */
export function KeyList() {
  const { keys, setKeys } = usePreferences();
  return (
    <>
      <p>
        <Switch checked={keys} onChange={setKeys} aria-label="Shortcuts of one key" /> Shortcuts of one key
        are {keys ? "on" : "off"} in this browser
      </p>
      <dl className="keys">
        {SHORTCUTS.map(([key, what]) => (
          <div key={key}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </>
  );
}
