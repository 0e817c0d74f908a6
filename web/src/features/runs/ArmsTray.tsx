import { Button } from "antd";
import { useNavigate } from "react-router";

import { useStored } from "../../shared/preferences";
import { askPath, twoArms } from "../comparisons/ask";

/** Runs picked in the table are gathered into two arms, from where they go to a comparison. */
export function ArmsTray({ picked, clear }: { picked: number[]; clear: () => void }) {
  const [before, setBefore] = useStored<number[]>("arm-before", []);
  const [after, setAfter] = useStored<number[]>("arm-after", []);
  const navigate = useNavigate();
  if (!picked.length && !before.length && !after.length) return null;
  function put(into: "before" | "after") {
    const others = (arm: number[]) => arm.filter((id) => !picked.includes(id));
    setBefore(into === "before" ? [...others(before), ...picked] : others(before));
    setAfter(into === "after" ? [...others(after), ...picked] : others(after));
    clear();
  }
  return (
    <div className="tray" role="region" aria-label="Groups">
      <span>{picked.length} picked</span>
      <Button disabled={!picked.length} onClick={() => put("before")}>
        Put into before
      </Button>
      <Button disabled={!picked.length} onClick={() => put("after")}>
        Put into after
      </Button>
      <span>
        <span className="arm-mark" />
        before: {before.length}
      </span>
      <span>
        <span className="arm-mark after" />
        after: {after.length}
      </span>
      <Button
        type="primary"
        disabled={!before.length || !after.length}
        onClick={() => void navigate(askPath({ arms: twoArms(before, after) }))}
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
        Empty both
      </Button>
    </div>
  );
}
