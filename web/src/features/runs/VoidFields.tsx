import { Form } from "antd";

import { ChoiceField, TextField } from "../../shared/fields";

export const VOID_REASONS = [
  "jumped",
  "lifted early",
  "wheel spin",
  "receiver moved",
  "traffic",
  "gap in the fix",
  "wrong conditions",
  "other",
] as const;

const COUNTS = [
  { value: "valid", label: "valid" },
  { value: "void", label: "void" },
];

/** Whether runs are valid, and why not. */
export function VoidFields() {
  const isVoid = Form.useWatch("validity") === "void";
  return (
    <div className="form-grid">
      <ChoiceField name="validity" label="Valid or void" options={COUNTS} clearable />
      {isVoid && <ChoiceField name="void_reason" label="Why void" options={VOID_REASONS} />}
      {isVoid && <TextField name="void_note" label="Note on that" most={300} />}
    </div>
  );
}
