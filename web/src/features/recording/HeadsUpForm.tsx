import { Alert, Button, Select } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";

import { useArm } from "./headsUp";
import type { Recorder } from "./queries";

/** Two recorders, a lane each. */
export function HeadsUpForm({ recorders }: { recorders: Recorder[] }) {
  const arming = useArm();
  const navigate = useNavigate();
  const [left, setLeft] = useState(recorders[0]?.id);
  const [right, setRight] = useState(recorders[1]?.id);
  const options = recorders.map((each) => ({ value: each.id, label: `${each.car_name} (${each.name})` }));
  function begin() {
    if (left === undefined || right === undefined) return;
    arming.mutate({ left, right }, { onSuccess: (pair) => void navigate(`/record/heads-up/${pair.id}`) });
  }
  return (
    <section className="sheet" aria-label="Heads-up">
      <h2>Two cars at once</h2>
      <div className="choices">
        <Select
          aria-label="Left lane"
          value={left}
          onChange={setLeft}
          options={options}
          className="pick wide"
        />
        <Select
          aria-label="Right lane"
          value={right}
          onChange={setRight}
          options={options}
          className="pick wide"
        />
        <Button onClick={begin} loading={arming.isPending}>
          Arm heads-up
        </Button>
      </div>
      {arming.error && <Alert type="error" title={arming.error.message} className="above" />}
    </section>
  );
}
