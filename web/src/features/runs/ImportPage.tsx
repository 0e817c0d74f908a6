import { Alert, Button, Form } from "antd";
import { useEffect, useState } from "react";
import { Link, useOutletContext } from "react-router";

import { ownZone } from "../../shared/dates";
import type { Dropped } from "../../shared/dropped";
import { ChoiceField, QuantityField, TextField } from "../../shared/fields";
import { usePreferences } from "../../shared/preferences";
import { useTitle } from "../../shared/useTitle";
import { whenOpened } from "../../shared/whenOpened";
import { useCars } from "../cars/queries";
import { useCourses } from "../courses/queries";
import type { Dating } from "./AskDay";
import { DropZone } from "./DropZone";
import { FoundTable } from "./FoundTable";
import type { Sending, SharedConditions } from "./imports";
import { NewCourse } from "./NewCourse";
import { NewSetup } from "./NewSetup";
import { useImport } from "./useImport";
import { useLooks } from "./useLooks";
import { UploadList } from "./UploadList";

// The calendar is large, and few logs lack their date.
const AskDay = whenOpened(
  () => import("./AskDay").then(({ AskDay }) => AskDay),
  () => null,
);

/** From files to runs: what is in them, what they were driven with, and then, not before, they are stored. */
export function ImportPage() {
  useTitle("Import");
  const looks = useLooks();
  const imports = useImport();
  const cars = useCars().data ?? [];
  const courses = useCourses().data ?? [];
  const { car } = usePreferences();
  const [form] = Form.useForm<SharedConditions>();
  const [dating, setDating] = useState<Dating | "later">();
  const dropped = useOutletContext<Dropped | undefined>();
  const { add } = looks;
  useEffect(() => {
    if (!dropped?.files.length) return;
    dropped.clear();
    void add(dropped.files);
  }, [dropped, add]);

  const course = Form.useWatch("course", form) as number | undefined;
  const near = looks.found.find((each) => each.look?.course)?.look?.course;
  useEffect(() => {
    if (near && !form.getFieldValue("course")) form.setFieldValue("course", near);
  }, [near, form]);
  const zone = courses.find((each) => each.id === course)?.time_zone ?? ownZone();
  const heading = looks.found.find((each) => each.look?.heading_deg != null)?.look?.heading_deg;

  const logs = looks.found.filter(({ look }) => look?.kind === "receiver log");
  const undated = logs.filter(({ look }) => look && !look.date_known && !look.already).length;
  const looking = looks.found.some((each) => !each.look && !each.refusal);
  const lacks = looking
    ? "Looking at the files."
    : logs.length === 0
      ? "No log to import."
      : undated > 0 && !dating
        ? `${undated} ${undated === 1 ? "log has" : "logs have"} no date.`
        : "";

  async function send() {
    const conditions = await form.validateFields().catch(() => null);
    if (!conditions) return;
    const cans = new Map([...looks.pairs].map(([can, log]) => [log, can]));
    const sent: Sending[] = logs.map(({ key, file, look, layout }) => {
      const can = looks.found.find((each) => each.key === cans.get(key))?.file;
      const dated = look?.date_known ? {} : dating === "later" ? { later: true } : dating;
      return {
        file,
        layout,
        conditions: { ...conditions, ...dated },
        can: can ? { can_log: can, dbc: looks.dbc } : {},
      };
    });
    looks.clear();
    setDating(undefined);
    await imports.start(sent);
  }

  return (
    <>
      <div className="page-head">
        <h1>Import logs</h1>
        <span className="quiet">Nothing is stored before you press Import.</span>
      </div>
      <section className="sheet" aria-label="Files">
        <DropZone take={(files) => void add(files)} also=" CAN logs and a DBC may come along." />
        {looks.found.length > 0 && (
          <div className="above">
            <FoundTable looks={looks} zone={zone} />
          </div>
        )}
        {undated > 0 && !dating && (
          <>
            <p className="above">
              {undated === 1 ? "One log has" : `${undated} logs have`} no date. Which day was it?
            </p>
            <AskDay zone={zone} done={setDating} later={() => setDating("later")} />
          </>
        )}
        {undated > 0 && dating && (
          <p className="above">
            {dating === "later"
              ? "Logs without a date come in without one. "
              : `Logs without a date: ${dating.day}. `}
            <Button size="small" onClick={() => setDating(undefined)}>
              Change
            </Button>
          </p>
        )}
      </section>
      <section className="sheet" aria-label="Driven with">
        <Form form={form} layout="vertical">
          <div className="form-grid below">
            <div>
              <ChoiceField
                name="setup"
                label="Setup"
                required="Choose the setup that was driven"
                options={setupOptions(cars, car)}
                search
                placeholder="Car and setup"
              />
              <NewSetup
                open={cars.length === 0}
                since={logs.find(({ look }) => look?.date_known)?.look?.start_utc}
                done={(id) => form.setFieldValue("setup", id)}
              />
            </div>
            <div>
              <ChoiceField
                name="course"
                label="Course and direction"
                clearable
                options={courses.map((each) => ({
                  value: each.id,
                  label: `${each.name}, ${each.direction}`,
                }))}
                placeholder="Not recorded"
              />
              <NewCourse heading={heading ?? undefined} done={(id) => form.setFieldValue("course", id)} />
            </div>
            <TextField name="drive_mode" label="Drive mode" most={40} />
          </div>
          <div className="form-grid">
            <QuantityField name="charge_before_percent" label="Charge before" kind="percent" />
            <QuantityField name="last_charge_before_percent" label="Charge at the last run" kind="percent" />
            <QuantityField name="battery_temp_before_c" label="Battery before" kind="temperature" />
            <QuantityField
              name="last_battery_temp_before_c"
              label="Battery at the last run"
              kind="temperature"
            />
          </div>
          <p className="quiet">
            With a value at the last run, too, charge and battery are spread over the runs between and marked
            as estimated.
          </p>
        </Form>
        <div className="save-line">
          <Button type="primary" disabled={lacks !== ""} onClick={() => void send()}>
            {logs.length === 0 ? "Import" : logs.length === 1 ? "Import 1 log" : `Import ${logs.length} logs`}
          </Button>
          <span className="quiet" role="status">
            {looks.found.length > 0 && lacks}
          </span>
        </div>
      </section>
      {imports.uploads.length > 0 && (
        <section className="sheet" aria-label="Imported">
          <UploadList {...imports} />
          {imports.uploads.every((each) => each.state === "done") && (
            <Alert
              className="above"
              type="success"
              title={
                <>
                  All of it is stored. <Link to="/runs">See the runs</Link>
                </>
              }
            />
          )}
        </section>
      )}
    </>
  );
}

function setupOptions(cars: NonNullable<ReturnType<typeof useCars>["data"]>, car: number | null) {
  return cars
    .filter((each) => car === null || each.id === car)
    .map((each) => ({
      label: each.name,
      title: each.name,
      options: each.setups
        .map((setup) => ({ value: setup.id, label: `${each.name}: ${setup.name}` }))
        .reverse(),
    }));
}
