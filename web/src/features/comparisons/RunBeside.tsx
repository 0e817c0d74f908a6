import { Button, Select } from "antd";
import { useMemo } from "react";
import { useNavigate } from "react-router";

import { usePreferences } from "../../shared/preferences";
import { useKeys } from "../../shared/shortcuts";
import { useBeside, type Run } from "../runs/queries";
import { askPath, groupOfRuns, MOST_RUNS, questionOf } from "./ask";

/** From a run to the ones before and after it, and to what it compares with. */
export function RunBeside({ run }: { run: Run }) {
  const { data } = useBeside(run.id);
  const { family } = usePreferences();
  const navigate = useNavigate();
  const keys = useMemo(() => {
    const go = (id: number | null | undefined) => () => {
      if (id) void navigate(`/runs/${id}`);
    };
    return { b: go(data?.previous), n: go(data?.next) };
  }, [data, navigate]);
  useKeys(keys);
  if (!data) return null;
  const against: [string, number[]][] = [
    ["the best of its setup", data.best === null || data.best === run.id ? [] : [data.best]],
    ["the run before it", data.previous === null ? [] : [data.previous]],
    ["all others of its setup", data.of_setup.slice(-MOST_RUNS)],
  ];
  const open = (name: string, runs: number[]) =>
    navigate(
      askPath({
        ...questionOf(run.kind, family),
        groups: [groupOfRuns(name, runs), groupOfRuns("this run", [run.id])],
      }),
    );
  return (
    <span className="acts">
      <Button disabled={data.previous === null} onClick={keys.b} aria-label="Run before (b)">
        ←
      </Button>
      <Button disabled={data.next === null} onClick={keys.n} aria-label="Run after (n)">
        →
      </Button>
      <Select
        aria-label="Compare this run with"
        placeholder="Compare with …"
        className="lay-over"
        popupMatchSelectWidth={false}
        value={null}
        options={against.map(([name, runs], value) => ({ value, label: name, disabled: runs.length === 0 }))}
        onChange={(place: number | null) => {
          const chosen = place === null ? undefined : against[place];
          if (chosen) void open(...chosen);
        }}
      />
    </span>
  );
}
