import { Button, Input, InputNumber, Popover, Select } from "antd";
import type { ReactNode } from "react";

import { useSetupOptions } from "../cars/useSetupOptions";
import { KINDS_SHORT } from "./columns";
import type { RunQuery } from "./queries";

/** Filters that have no column of their own to be set on, and how a chip words each. */
const WORDED: Record<string, (value: string) => string> = {
  setup: (value) => `setup ${value}`,
  day: (value) => `on ${value}`,
  from_day: (value) => `from ${value}`,
  to_day: (value) => `to ${value}`,
  charge_from: (value) => `charge from ${value} %`,
  charge_to: (value) => `charge to ${value} %`,
  drive_mode: (value) => `mode ${value}`,
  kind: (value) => KINDS_SHORT[value] ?? value,
  direction: (value) => value,
  validity: (value) => value,
  complete: (value) => (value === "true" ? "complete" : "not complete"),
  gaps: () => "charge or battery temperature missing",
  log: (value) => `log ${value}`,
  ids: (value) => `${value.split(",").length} picked runs`,
};

const WORDS = [
  [
    "kind",
    "Kind",
    [
      ["standing", "standing starts"],
      ["rolling", "roll-ons"],
      ["stop", "stops"],
    ],
  ],
  [
    "direction",
    "Direction",
    [
      ["out", "out"],
      ["back", "back"],
    ],
  ],
  [
    "validity",
    "Counts",
    [
      ["valid", "valid"],
      ["void", "void"],
    ],
  ],
] as const;

interface Props {
  query: RunQuery;
  change: (changes: Record<string, string | null>) => void;
}

/** What the list is narrowed to, each as a chip that takes it off. All of it is in the address, to be linked to. */
export function FilterChips({ query, change }: Props) {
  const setups = useSetupOptions();
  const asked = Object.entries(query).filter(([name]) => name in WORDED);
  if (asked.length === 0) return null;
  const worded = (name: string, value: string) =>
    name === "setup"
      ? (setups.find((setup) => setup.value === Number(value))?.label ?? "one setup")
      : WORDED[name]?.(value);
  return (
    <div className="row chips" aria-label="Filters" role="group">
      {asked.map(([name, value]) => (
        <Button
          key={name}
          size="small"
          aria-label={`Take off: ${worded(name, String(value))}`}
          onClick={() => change({ [name]: null })}
        >
          {worded(name, String(value))} ✕
        </Button>
      ))}
      {asked.length > 1 && (
        <Button
          size="small"
          type="link"
          onClick={() => change(Object.fromEntries(asked.map(([name]) => [name, null])))}
        >
          All runs
        </Button>
      )}
    </div>
  );
}

/** The filters that are no column's own. */
export function FilterButton({ query, change }: Props) {
  const setups = useSetupOptions();
  const day = (name: "from_day" | "to_day", label: string) => (
    <Input
      type="date"
      aria-label={label}
      value={query[name] ?? ""}
      onChange={(event) => change({ [name]: event.target.value || null })}
    />
  );
  const charge = (name: "charge_from" | "charge_to", label: string) => (
    <InputNumber
      aria-label={label}
      className="short"
      min={0}
      max={100}
      value={query[name] === undefined ? null : Number(query[name])}
      onChange={(value) => change({ [name]: value === null ? null : String(value) })}
    />
  );
  const line = (name: string, fields: ReactNode, key?: string) => (
    <div key={key} className="choice">
      <span>{name}</span>
      {fields}
    </div>
  );
  const form = (
    <div className="stack">
      {line(
        "Setup",
        <Select
          allowClear
          showSearch={{ optionFilterProp: "label" }}
          aria-label="Setup"
          className="pick"
          popupMatchSelectWidth={false}
          value={query.setup === undefined ? null : Number(query.setup)}
          options={setups}
          onChange={(value?: number) => change({ setup: value === undefined ? null : String(value) })}
        />,
      )}
      {WORDS.map(([name, label, options]) =>
        line(
          label,
          <Select
            allowClear
            aria-label={label}
            className="pick"
            value={query[name] ?? null}
            options={options.map(([value, shown]) => ({ value, label: shown }))}
            onChange={(value?: string) => change({ [name]: value ?? null })}
          />,
          name,
        ),
      )}
      {line(
        "Days",
        <>
          {day("from_day", "From day")} to {day("to_day", "To day")}
        </>,
      )}
      {line(
        "Charge before",
        <>
          {charge("charge_from", "Charge from")} to {charge("charge_to", "Charge to")} %
        </>,
      )}
    </div>
  );
  return (
    <Popover content={form} trigger="click" placement="bottomRight">
      <Button>Filter</Button>
    </Popover>
  );
}
