import { useState, type ReactNode } from "react";

import type { Schemas } from "../../api/client";
import { EntryForm } from "../../shared/EntryForm";
import { ChoiceField, NumberField, QuantityField, TextField } from "../../shared/fields";
import { ownZone } from "../../shared/dates";
import { useSaveCourse } from "./queries";

const SURFACES = ["dry asphalt", "damp asphalt", "wet asphalt", "concrete", "prepared strip"];
const zones = Intl.supportedValuesOf("timeZone");

interface Props {
  course?: Schemas["Course"];
  /** What is known of a new one. */
  known?: Partial<Schemas["CourseRequest"]>;
  done: (course: Schemas["Course"]) => void;
  /** Beside the button that saves. */
  beside?: ReactNode;
}

/** A new course, or one that is edited; its profile has a form of its own. */
export function CourseForm({ course, known, done, beside }: Props) {
  const save = useSaveCourse(course?.id);
  // What the form began with: a page that reloads meanwhile must not make it newer than it is.
  const [opened] = useState(course);
  return (
    <EntryForm
      first={
        opened ?? { direction: "out", surface: "dry asphalt", time_zone: ownZone(), runout_m: 0, ...known }
      }
      save={save}
      sent={(values: Schemas["CourseRequest"]) => ({ ...values, revision: opened?.revision })}
      done={done}
      beside={beside}
      submit={course ? "Save" : "Add course"}
    >
      <div className="form-grid">
        <TextField name="name" label="Name" required="Enter a name" most={80} />
        <ChoiceField name="direction" label="Direction" options={["out", "back"]} />
        <NumberField
          name="heading_deg"
          label="Heading, degrees"
          required="Enter the heading; 0 is north"
          min={0}
          max={360}
        />
        <QuantityField name="length_m" label="Length" required="Enter the length" kind="distance" />
        <QuantityField
          name="runout_m"
          label="Runout"
          required="Enter the runout; 0 if none"
          kind="distance"
        />
        <ChoiceField name="surface" label="Surface" options={SURFACES} />
        <QuantityField name="elevation_m" label="Elevation" kind="distance" />
        <ChoiceField
          name="time_zone"
          label="Time zone"
          search
          options={[...new Set([ownZone(), ...zones])]}
        />
      </div>
      <TextField name="permission" label="Permission: from whom, and when" most={200} />
      <TextField name="access" label="Access: gates, keys, whom to call" most={400} />
    </EntryForm>
  );
}
