import { AutoComplete, Input, Select } from "antd";

import { QuantityInput } from "../../shared/QuantityInput";
import { CONDITION_FIELDS, type ConditionField } from "./conditionFields";
import { useReceivers } from "../../shared/useReceivers";

const YES_NO = [
  { value: true, label: "on" },
  { value: false, label: "off" },
];

/** What a condition is typed into. */
export function conditionInput(field: ConditionField) {
  if (field.kind) return <QuantityInput kind={field.kind} />;
  if (field.yesNo) return <Select allowClear options={YES_NO} />;
  if (field.choices)
    return <Select allowClear options={field.choices.map((value) => ({ value, label: value }))} />;
  if (field.name === "receiver") return <ReceiverInput />;
  return <Input maxLength={80} />;
}

/** A receiver by name; those that are registered are offered. */
function ReceiverInput(props: { id?: string; value?: string; onChange?: (value: string) => void }) {
  const names = (useReceivers().data ?? []).map(({ name }) => ({ value: name }));
  return <AutoComplete {...props} maxLength={80} options={names} filterOption />;
}

/** A cleared text is an empty text to the server; a cleared number or choice of another row is null. */
export function emptied(value: unknown, name: string): unknown {
  const field = CONDITION_FIELDS.find((each) => each.name === name);
  const isText = name === "notes" || (field !== undefined && !field.kind && !field.yesNo);
  return isText ? (value ?? "") : (value ?? null);
}
