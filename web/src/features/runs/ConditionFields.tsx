import { Field } from "../../shared/fields";
import { CONDITION_FIELDS } from "./conditionFields";
import { conditionInput } from "./conditionInput";

/** An input for everything that can be recorded about a run. */
export function ConditionFields() {
  return (
    <div className="form-grid">
      {CONDITION_FIELDS.map((field) => (
        <Field key={field.name} name={field.name} label={field.label}>
          {conditionInput(field)}
        </Field>
      ))}
    </div>
  );
}
