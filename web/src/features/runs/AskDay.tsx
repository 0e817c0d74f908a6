import { Button, DatePicker } from "antd";
import type { Dayjs } from "dayjs";
import { useState } from "react";

/** On which day a log without a date was driven. */
export function AskDay({ done, busy = false }: { done: (day: string) => void; busy?: boolean }) {
  const [day, setDay] = useState<Dayjs | null>(null);
  return (
    <div className="choice" role="group" aria-label="Day of this log">
      <DatePicker aria-label="Day that it was driven on" value={day} onChange={setDay} />
      <Button
        type="primary"
        disabled={day === null}
        loading={busy}
        onClick={() => day && done(day.format("YYYY-MM-DD"))}
      >
        Use this day
      </Button>
    </div>
  );
}
