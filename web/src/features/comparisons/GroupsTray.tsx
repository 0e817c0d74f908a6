import { Button } from "antd";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";

import { useStored } from "../../shared/preferences";
import { askPath, twoGroups } from "./ask";

interface Props {
  picked: number[];
  clear: () => void;
  /** What else can be done with what is picked. */
  children?: ReactNode;
}

/** Runs picked in the table are gathered into two groups, from where they go to a comparison. */
export function GroupsTray({ picked, clear, children }: Props) {
  const [before, setBefore] = useStored<number[]>("group-before", []);
  const [after, setAfter] = useStored<number[]>("group-after", []);
  const navigate = useNavigate();
  if (!picked.length && !before.length && !after.length) return null;
  function put(into: "before" | "after") {
    const others = (group: number[]) => group.filter((id) => !picked.includes(id));
    setBefore(into === "before" ? [...others(before), ...picked] : others(before));
    setAfter(into === "after" ? [...others(after), ...picked] : others(after));
    clear();
  }
  return (
    <div className="tray" role="region" aria-label="Groups">
      <span>{picked.length} picked</span>
      {children}
      <Button disabled={!picked.length} onClick={() => put("before")}>
        Add to Before
      </Button>
      <Button disabled={!picked.length} onClick={() => put("after")}>
        Add to After
      </Button>
      <span>
        <span className="group-mark" />
        before: {before.length}
      </span>
      <span>
        <span className="group-mark after" />
        after: {after.length}
      </span>
      <Button
        type="primary"
        disabled={!before.length || !after.length}
        onClick={() => void navigate(askPath({ groups: twoGroups(before, after) }))}
      >
        Compare
      </Button>
      <Button
        type="text"
        onClick={() => {
          setBefore([]);
          setAfter([]);
          clear();
        }}
      >
        Clear both
      </Button>
    </div>
  );
}
