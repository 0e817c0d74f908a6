import { ChoiceField } from "../../shared/fields";
import { useSetupOptions } from "../cars/useSetupOptions";
import { useCourseOptions } from "../courses/useCourseOptions";

/** What a run belongs to: the setup that was driven, and where. */
export function RunPlace() {
  return (
    <div className="form-pair">
      <ChoiceField name="setup" label="Setup" options={useSetupOptions()} search />
      <ChoiceField name="course" label="Course" options={useCourseOptions()} clearable />
    </div>
  );
}
