import { Button, DatePicker, Select } from "antd";
import type { Dayjs } from "dayjs";
import { useState } from "react";

export interface Dating {
  day: string;
  /** Of the log's clock. */
  zone: string;
}

const ZONES = ["UTC", ...Intl.supportedValuesOf("timeZone")].map((value) => ({ value, label: value }));

/** On which day a log was driven, and what its clock showed; `later` takes it without. */
export function AskDay(props: {
  done: (dating: Dating) => void;
  later?: () => void;
  busy?: boolean;
  /** What its clock shows, as long as nobody says otherwise. */
  zone?: string;
}) {
  const { done, later, busy = false, zone: first = "UTC" } = props;
  const [day, setDay] = useState<Dayjs | null>(null);
  const [zone, setZone] = useState(first);
  return (
    <div className="choice" role="group" aria-label="Day of this log">
      <DatePicker aria-label="Day it was driven" value={day} onChange={setDay} />
      <Select
        aria-label="Time zone of its clock"
        value={zone}
        onChange={setZone}
        options={ZONES}
        showSearch
        popupMatchSelectWidth={false}
      />
      <Button
        type="primary"
        disabled={day === null}
        loading={busy}
        onClick={() => day && done({ day: day.format("YYYY-MM-DD"), zone })}
      >
        Use this day
      </Button>
      {later && <Button onClick={later}>Later: its runs don't count until then</Button>}
    </div>
  );
}
