import { InputNumber } from "antd";

import { usePreferences } from "./preferences";
import { shown, toSi, typedNumber, unitOf, type Kind } from "./units";

interface Props {
  id?: string;
  /** What it is, where no label of a form names it. */
  name?: string;
  kind: Kind;
  value?: number | null;
  onChange?: (si: number | null) => void;
  step?: number;
}

/** A number typed in the chosen unit family and kept in SI. */
export function QuantityInput({ id, name, kind, value, onChange, step }: Props) {
  const { family } = usePreferences();
  const unit = unitOf(kind, family);
  const current =
    value === null || value === undefined ? null : Number(shown(value, kind, family).toFixed(2));
  return (
    <InputNumber
      id={id}
      aria-label={name}
      value={current}
      step={step ?? 1}
      suffix={unit.name}
      parser={(text) => typedNumber(text ?? "", kind, family)}
      onChange={(typed) => onChange?.(typed === null ? null : toSi(typed, kind, family))}
    />
  );
}
