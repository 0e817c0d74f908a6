import { Modal, Switch } from "antd";
import { Link } from "react-router";

import { usePreferences } from "./preferences";

const SHORTCUTS: [string, string][] = [
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

/** The keys over whatever page is open. */
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
