import dayjs, { type Dayjs } from "dayjs";
import { useState, type ReactNode } from "react";

import type { Schemas } from "../../api/client";
import { EntryForm } from "../../shared/EntryForm";
import { DateField, NumberField, QuantityField } from "../../shared/fields";
import { useSaveDay, type Day } from "./queries";

const LOCAL = "YYYY-MM-DDTHH:mm";
type Typed = Omit<Schemas["DayRequest"], "first_run_at" | "known_at" | "plan"> & {
  first_run_at: Dayjs;
  known_at: Dayjs;
};

interface Props {
  plan: number;
  day?: Day;
  done: (day: Day) => void;
  /** Beside the button that saves. */
  beside?: ReactNode;
}

/** What the timetable is worked back from. Times are those of the clock at the course. */
export function DayForm({ plan, day, done, beside }: Props) {
  const save = useSaveDay(day?.id);
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [opened] = useState(day);
  return (
    <EntryForm
      first={
        opened
          ? { ...opened, first_run_at: dayjs(opened.first_run_local), known_at: dayjs(opened.known_local) }
          : first()
      }
      save={save}
      sent={(values: Typed) => ({
        ...values,
        plan,
        first_run_at: values.first_run_at.format(LOCAL),
        known_at: values.known_at.format(LOCAL),
        revision: opened?.revision,
      })}
      done={done}
      beside={beside}
      submit={day ? "Recalculate" : "Plan the day"}
    >
      <p className="label">Times are in the course’s time zone.</p>
      <div className="form-grid">
        <DateField name="first_run_at" label="First run" required="Enter date and time" time />
        <DateField name="known_at" label="Car state known at" required="Enter date and time" time />
        <QuantityField name="charge_percent" label="Charge at that time" kind="percent" />
        <QuantityField name="battery_temp_c" label="Battery at that time" kind="temperature" />
        <QuantityField name="outside_temp_c" label="Outside temperature" kind="temperature" />
        <NumberField name="charger_kw" label="Charger, kW" min={0} />
        <NumberField name="drive_min" label="Drive to the course, min" min={0} />
        <QuantityField name="drive_charge_percent" label="Charge used by the drive" kind="percent" />
        <NumberField name="prepare_min" label="Preparation at the course, min" min={0} />
        <NumberField name="climate_kw" label="Climate control, kW" min={0} />
        <NumberField name="course_charger_kw" label="Charger at the course, kW" min={0} />
      </div>
    </EntryForm>
  );
}

function first() {
  const morning = dayjs().add(1, "day").hour(10).minute(0).second(0);
  return {
    first_run_at: morning,
    known_at: morning.subtract(12, "hour"),
    charge_percent: 60,
    battery_temp_c: 15,
    outside_temp_c: 12,
    charger_kw: 11,
    drive_min: 20,
    drive_charge_percent: 3,
    prepare_min: 25,
    climate_kw: 0,
  };
}
