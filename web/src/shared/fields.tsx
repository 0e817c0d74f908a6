import { DatePicker, Form, Input, InputNumber, Select, Switch, type SelectProps } from "antd";
import { createContext, useContext, type ReactElement } from "react";

import { asOptions } from "./options";
import { QuantityInput } from "./QuantityInput";
import type { Kind } from "./units";

/** What the server refused, by field. */
export const Refused = createContext<Record<string, string>>({});

interface Named {
  name: string | (string | number)[];
  label: string;
  /** What to do where it is left empty; a field without may be. */
  required?: string;
}

/** One named input of a form; what the server refused stands below it. */
export function Field({ name, label, required, children }: Named & { children: ReactElement }) {
  const refused = useContext(Refused)[String(name)];
  return (
    <Form.Item
      name={name}
      label={label}
      rules={required ? [{ required: true, message: required }] : []}
      {...(refused ? { validateStatus: "error" as const, help: refused } : {})}
    >
      {children}
    </Form.Item>
  );
}

export function TextField({
  most,
  rows,
  placeholder,
  inputMode,
  ...named
}: Named & { most?: number; rows?: number; placeholder?: string; inputMode?: "decimal" }) {
  const common = { maxLength: most, placeholder, inputMode };
  return (
    <Field {...named}>{rows ? <Input.TextArea rows={rows} {...common} /> : <Input {...common} />}</Field>
  );
}

export function NumberField({
  min,
  max,
  step,
  ...named
}: Named & { min?: number; max?: number; step?: number }) {
  return (
    <Field {...named}>
      <InputNumber min={min} max={max} step={step} />
    </Field>
  );
}

/** A number typed in the chosen unit family and kept in SI. */
export function QuantityField({ kind, step, ...named }: Named & { kind: Kind; step?: number }) {
  return (
    <Field {...named}>
      <QuantityInput kind={kind} step={step} />
    </Field>
  );
}

type Choices = readonly string[] | SelectProps["options"];

/** One of several; `clearable` where none is an answer too. */
export function ChoiceField({
  options,
  clearable,
  search,
  placeholder,
  ...named
}: Named & { options: Choices; clearable?: boolean; search?: boolean; placeholder?: string }) {
  return (
    <Field {...named}>
      <Select
        allowClear={clearable}
        showSearch={search ? { optionFilterProp: "label" } : false}
        placeholder={placeholder}
        options={optionsOf(options)}
      />
    </Field>
  );
}

function optionsOf(options: Choices): SelectProps["options"] {
  const words = options?.filter((each) => typeof each === "string");
  return words?.length ? asOptions(words) : (options as SelectProps["options"]);
}

export function DateField({ time, ...named }: Named & { time?: boolean }) {
  return (
    <Field {...named}>
      {time ? (
        <DatePicker showTime={{ format: "HH:mm" }} format="YYYY-MM-DD HH:mm" />
      ) : (
        <DatePicker format="YYYY-MM-DD" />
      )}
    </Field>
  );
}

export function YesNoField({ no = "no", ...named }: Named & { no?: string }) {
  return (
    <Field {...named}>
      <Switch checkedChildren="yes" unCheckedChildren={no} />
    </Field>
  );
}
