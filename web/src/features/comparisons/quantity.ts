import { usePreferences } from "../../shared/preferences";
import { fixed, unitOf, type Kind } from "../../shared/units";
import type { Result } from "./queries";

/** How the compared quantity is shown in the chosen unit family. */
export interface Shown {
  unit: string;
  digits: number;
  of: (si: number) => number;
  text: (si: number | null) => string;
}

export function useQuantity(result: Result): Shown {
  const { family } = usePreferences();
  const kind: Kind = result.unit === "m" ? "distance" : result.unit === "m/s" ? "speed" : "time";
  const unit = unitOf(kind, family);
  const digits = kind === "time" ? 3 : unit.digits + 1;
  const of = (si: number) => si / unit.factor;
  return { unit: unit.name, digits, of, text: (si) => fixed(si === null ? null : of(si), digits) };
}

export function quantityUnit(quantity: Shown): string {
  return quantity.unit;
}

export function signed(si: number, quantity: Shown): string {
  const text = fixed(quantity.of(si), quantity.digits - 1);
  return si > 0 ? `+${text}` : text;
}

export function halfWidth(difference: { low95: number; high95: number }, quantity: Shown): string {
  return fixed(quantity.of((difference.high95 - difference.low95) / 2), quantity.digits - 1);
}
