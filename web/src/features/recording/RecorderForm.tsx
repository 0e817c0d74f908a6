import { useState } from "react";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { DeleteButton } from "../../shared/DeleteButton";
import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, TextField } from "../../shared/fields";
import { useDelete } from "../../shared/useDelete";
import { useSession } from "../accounts/session";
import { useSetupOptions } from "../cars/useSetupOptions";
import { useCourseOptions } from "../courses/useCourseOptions";
import { useDays } from "../days/useDays";
import { useDevices } from "./devices";
import { useSaveRecorder, type Recorder } from "./queries";

const ROLES = [
  { role: "receiver", kind: "receiver", label: "GPS receiver" },
  { role: "can", kind: "CAN", label: "CAN" },
  { role: "weather_station", kind: "weather station", label: "Weather station" },
  { role: "simulation", kind: "simulation", label: "Simulated car and driver" },
] as const;

/** A test car's devices, and what is recorded with them. */
export function RecorderForm({ recorder, done }: { recorder?: Recorder; done: () => void }) {
  const save = useSaveRecorder(recorder?.id);
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [opened] = useState(recorder);
  const devices = useDevices();
  const { person } = useSession();
  const courses = useCourseOptions();
  const days = useDays();
  const setups = useSetupOptions();
  return (
    <EntryForm
      first={opened ?? { measure: "0-60 mph", clock: "rollout" }}
      save={save}
      sent={(values: Schemas["RecorderRequest"]) => ({ ...emptied(values), revision: opened?.revision })}
      done={done}
      submit={recorder ? "Save" : "Add recorder"}
      beside={recorder && <Delete recorder={recorder} done={done} />}
    >
      <div className="form-grid">
        <TextField name="name" label="Name" required="Enter a name" most={60} />
        <ChoiceField name="setup" label="Setup" required="Choose a setup" search options={setups} />
        <ChoiceField
          name="day"
          label="Day"
          clearable
          options={days.data?.map((day) => ({
            value: day.id,
            label: `${day.local_day}, ${day.question}`,
          }))}
        />
        <ChoiceField name="course" label="Course and direction" clearable options={courses} />
        <TextField name="measure" label="Measure without a test day" />
      </div>
      <div className="form-grid">
        {ROLES.map(({ role, kind, label }) => (
          <ChoiceField
            key={role}
            name={role}
            label={label}
            required={role === "receiver" ? "Choose the GPS receiver" : undefined}
            clearable={role !== "receiver"}
            placeholder={role === "receiver" ? "Choose the GPS receiver" : "none"}
            options={devices.data
              ?.filter((device) => device.kind === kind)
              .map((device) => ({ value: device.id, label: device.name }))}
          />
        ))}
      </div>
      <p className="quiet">
        {person?.may_delete ? (
          <Link to="/devices">Add or change devices</Link>
        ) : (
          "An administrator adds devices."
        )}
      </p>
    </EntryForm>
  );
}

function Delete({ recorder, done }: { recorder: Recorder; done: () => void }) {
  const remove = useDelete("/api/v1/recorders/{id}/", recorder.id);
  return (
    <DeleteButton
      name={recorder.name}
      note="What it recorded stays, with its runs."
      remove={remove}
      done={done}
    />
  );
}

/** What was cleared is null to the server. */
function emptied(values: Schemas["RecorderRequest"]): Schemas["RecorderRequest"] {
  const { day = null, course = null, can = null, weather_station = null, simulation = null } = values;
  return { ...values, day, course, can, weather_station, simulation };
}
