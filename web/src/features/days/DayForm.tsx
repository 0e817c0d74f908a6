import { Button, DatePicker, Form, InputNumber } from "antd";
import dayjs, { type Dayjs } from "dayjs";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { QuantityInput } from "../../shared/QuantityInput";
import { SaveError } from "../../shared/SaveError";
import { useAddDay, useChangeDay, type Day } from "./queries";

const LOCAL = "YYYY-MM-DDTHH:mm";
type Typed = Omit<Schemas["DayRequest"], "first_run_at" | "known_at" | "plan"> & {
  first_run_at: Dayjs;
  known_at: Dayjs;
};

interface Props {
  plan: number;
  day?: Day;
  done: (day: Day) => void;
}

/** What the timetable is worked back from. Times are those of the clock at the course. */
export function DayForm({ plan, day, done }: Props) {
  const add = useAddDay();
  const change = useChangeDay(day?.id ?? 0);
  const { isPending } = day ? change : add;
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [opened] = useState(day);
  return (
    <Form
      layout="vertical"
      initialValues={
        opened
          ? { ...opened, first_run_at: dayjs(opened.first_run_local), known_at: dayjs(opened.known_local) }
          : first()
      }
      onFinish={(values: Typed) => {
        const given = {
          ...values,
          plan,
          first_run_at: values.first_run_at.format(LOCAL),
          known_at: values.known_at.format(LOCAL),
        };
        if (opened) change.mutate({ ...given, revision: opened.revision }, { onSuccess: done });
        else add.mutate(given, { onSuccess: done });
      }}
    >
      <p className="label">Times on the clock at the course.</p>
      <div className="form-grid">
        <Time name="first_run_at" label="First run" />
        <Time name="known_at" label="Car as stated below at" />
        <Form.Item name="charge_percent" label="Charge then">
          <QuantityInput kind="percent" />
        </Form.Item>
        <Form.Item name="pack_temp_c" label="Pack then">
          <QuantityInput kind="temperature" />
        </Form.Item>
        <Form.Item name="outside_temp_c" label="Air outside">
          <QuantityInput kind="temperature" />
        </Form.Item>
        <Numbers name="charger_kw" label="Charger, kW" />
        <Numbers name="drive_min" label="Drive to the course, min" />
        <Form.Item name="drive_charge_percent" label="Charge the drive takes">
          <QuantityInput kind="percent" />
        </Form.Item>
        <Numbers name="prepare_min" label="Preparing there, min" />
        <Numbers name="climate_kw" label="Climate control, kW" />
        <Numbers name="course_charger_kw" label="Charger at the course, kW" />
      </div>
      <SaveError save={change} done={done} />
      <SaveError save={add} done={done} />
      <Button type="primary" htmlType="submit" loading={isPending}>
        {day ? "Work it out again" : "Lay the day out"}
      </Button>
    </Form>
  );
}

function first() {
  const morning = dayjs().add(1, "day").hour(10).minute(0).second(0);
  return {
    first_run_at: morning,
    known_at: morning.subtract(12, "hour"),
    charge_percent: 60,
    pack_temp_c: 15,
    outside_temp_c: 12,
    charger_kw: 11,
    drive_min: 20,
    drive_charge_percent: 3,
    prepare_min: 25,
    climate_kw: 0,
  };
}

function Time({ name, label }: { name: string; label: string }) {
  return (
    <Form.Item name={name} label={label} rules={[{ required: true, message: "Date and time" }]}>
      <DatePicker showTime={{ format: "HH:mm" }} format="YYYY-MM-DD HH:mm" style={{ width: "100%" }} />
    </Form.Item>
  );
}

function Numbers({ name, label }: { name: string; label: string }) {
  return (
    <Form.Item name={name} label={label}>
      <InputNumber min={0} style={{ width: "100%" }} />
    </Form.Item>
  );
}
